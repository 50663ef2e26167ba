/** sRGB hex and hue, saturation and value, as pickers show them; both are of the display. */

export interface Hsv {
  /** Degrees from 0 to 360. */
  hue: number
  /** From 0 to 100. */
  saturation: number
  value: number
}

export function hsvOf(hex: string): Hsv {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255)
  const most = Math.max(r, g, b)
  const span = most - Math.min(r, g, b)
  let hue = 0
  if (span > 0 && most === r) hue = ((g - b) / span + 6) % 6
  else if (span > 0 && most === g) hue = (b - r) / span + 2
  else if (span > 0) hue = (r - g) / span + 4
  return {
    hue: Math.round(60 * hue),
    saturation: most > 0 ? Math.round((100 * span) / most) : 0,
    value: Math.round(100 * most),
  }
}

export function hexOf({ hue, saturation, value }: Hsv): string {
  const [s, v] = [saturation / 100, value / 100]
  const channel = (n: number) => {
    const k = (n + hue / 60) % 6
    return v - v * s * Math.max(0, Math.min(k, 4 - k, 1))
  }
  const levels = [5, 3, 1].map((n) => Math.round(255 * channel(n)))
  return `#${levels.map((level) => level.toString(16).padStart(2, '0')).join('')}`
}

/** Linear light of an sRGB hex colour, by IEC 61966-2-1. */
export function lightOf(hex: string): number[] {
  return [1, 3, 5].map((i) => {
    const level = Number.parseInt(hex.slice(i, i + 2), 16) / 255
    return level <= 0.04045 ? level / 12.92 : ((level + 0.055) / 1.055) ** 2.4
  })
}

/** The sRGB hex colour nearest to linear light. */
export function hexOfLight(light: readonly number[]): string {
  const parts = light.map((part) => {
    const held = Math.min(1, Math.max(0, part))
    const coded = held <= 0.0031308 ? 12.92 * held : 1.055 * held ** (1 / 2.4) - 0.055
    return Math.round(255 * coded)
      .toString(16)
      .padStart(2, '0')
  })
  return `#${parts.join('')}`
}
