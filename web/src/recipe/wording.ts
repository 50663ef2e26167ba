/** Values as people read them. */
import { numberText } from '../ui/numbers'
import { type Change, isMove, isPoint, type Move, type Setting, type Value, type XY } from './types'

/** What a phase counts: its rate is so many of them a second. */
export const COUNTED = new Set(['cycles', 'levels', 'changes', 'paths', 'turns', 's'])
const CLOSE = new Set(['%', '°'])

export function withUnit(value: number, unit: string): string {
  const number = unit === 'stops' && value > 0 ? `+${numberText(value)}` : numberText(value)
  if (!unit) return number
  if (unit === '%') return `${number} %`
  return CLOSE.has(unit) ? `${number}${unit}` : `${number} ${unit}`
}

export function pairText([x, y]: XY): string {
  return `${numberText(x)}, ${numberText(y)}`
}

/** A value in the sentence: plain, or how it moves. */
export function valueText(value: Value, setting: Setting): string {
  if (isMove(value)) return movingText(value, setting)
  if (isPoint(value)) return pairText(value)
  if (typeof value === 'number') return withUnit(value, setting.unit)
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (Array.isArray(value)) return value.length === 0 ? 'none' : `${value.length}`
  if (['layer', 'named', 'element'].includes(setting.type)) return value || 'none'
  return value
}

/** A change of a value: a number, or one for each axis. */
export function changeText(change: Change): string {
  return typeof change === 'number' ? numberText(change) : change.map(numberText).join(', ')
}

function movingText(value: Move, setting: Setting): string {
  switch (value.moves) {
    case 'follow':
      return value.point ?? value.track ?? 'nothing'
    case 'like':
      return `as ${value.setting.setting.replaceAll('_', ' ')} of ${value.setting.layer}`
    case 'rate': {
      const unit = COUNTED.has(setting.unit) || !setting.unit ? '' : ` ${setting.unit}`
      return `${changeText(value.per_second)}${unit}${isPoint(value.per_second) ? '' : ' '}/s`
    }
    case 'life':
      return `${valueText(value.start, setting)} to ${valueText(value.end, setting)}`
    case 'jitter':
    case 'pulse':
      return `${valueText(value.value, setting)} ± ${changeText(value.amount)}`
    case 'formula':
      return [value.formula].flat().join(', ')
    case 'keys':
      return value.keys.length === 1 ? '1 key' : `${value.keys.length} keys`
  }
}
