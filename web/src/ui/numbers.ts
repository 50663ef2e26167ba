/** Numbers as people read and write them. */

export function numberText(value: number): string {
  const digits = Math.abs(value) >= 100 ? 0 : Math.abs(value) >= 10 ? 1 : 2
  return String(Number(value.toFixed(digits))).replace('-', '−')
}

/** Reads what a person typed as a number; a comma or a proper minus will do. */
export function readNumber(text: string): number | undefined {
  const cleaned = text.trim().replace('−', '-').replace(',', '.')
  if (!/^[-+]?(\d+\.?\d*|\.\d+)$/.test(cleaned)) return undefined
  return Number(cleaned)
}

export function bytesText(bytes: number): string {
  if (bytes < 1024 * 1024) return `${Math.round(bytes / 1024)} kB`
  return `${(bytes / 1024 / 1024).toFixed(1)} MB`
}
