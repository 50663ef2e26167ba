/** Numbers as people read and write them. */

export function numberText(value: number): string {
  const digits = Math.abs(value) >= 100 ? 0 : Math.abs(value) >= 10 ? 1 : 2
  return String(Number(value.toFixed(digits))).replace('-', '−')
}

/**
 * Reads what a person typed as a number, or as arithmetic with + - * / and brackets.
 * A comma for the point, a proper minus, and its unit behind it will do.
 */
export function readNumber(text: string, unit = ''): number | undefined {
  const plain = unit && text.trimEnd().endsWith(unit) ? text.trimEnd().slice(0, -unit.length) : text
  const cleaned = plain.replaceAll('−', '-').replaceAll('×', '*').replaceAll(',', '.')
  const parts = cleaned.match(/(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?|[-+*/()]|\S/gi) ?? []
  let at = 0

  function sum(): number {
    let value = product()
    while (parts[at] === '+' || parts[at] === '-') {
      value = parts[at++] === '+' ? value + product() : value - product()
    }
    return value
  }
  function product(): number {
    let value = factor()
    while (parts[at] === '*' || parts[at] === '/') {
      value = parts[at++] === '*' ? value * factor() : value / factor()
    }
    return value
  }
  function factor(): number {
    const part = parts[at++]
    if (part === '-') return -factor()
    if (part === '+') return factor()
    if (part === '(') {
      const value = sum()
      return parts[at++] === ')' ? value : Number.NaN
    }
    return part !== undefined && /^[\d.]/.test(part) ? Number(part) : Number.NaN
  }

  const value = sum()
  return at === parts.length && Number.isFinite(value) ? value : undefined
}

export function bytesText(bytes: number): string {
  if (bytes < 1024 * 1024) return `${Math.round(bytes / 1024)} kB`
  return `${(bytes / 1024 / 1024).toFixed(1)} MB`
}
