/** The range in which a setting's number is usually wanted, and its finest useful step. */
import type { Setting } from '../../recipe/types'

export function rangeOf(setting: Setting): [number, number] {
  return (setting.usual as [number, number] | null) ?? [setting.least ?? 0, setting.most ?? 1]
}

export function stepOf(setting: Setting): number {
  if (setting.type === 'whole') return 1
  const [least, most] = rangeOf(setting)
  const span = most - least
  if (span > 200) return 1
  return span > 20 ? 0.1 : 0.01
}

export function clamped(value: number, setting: Setting): number {
  return Math.min(setting.most ?? value, Math.max(setting.least ?? value, value))
}
