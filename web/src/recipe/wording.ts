/** Values as people read them. */
import { numberText } from '../ui/numbers'
import { isMove, isPoint, type Move, type Setting, type Value, type XY } from './types'

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
  return value
}

function movingText(value: Move, setting: Setting): string {
  switch (value.moves) {
    case 'follow':
      return value.point
    case 'rate': {
      if (isPoint(value.per_second)) return `${pairText(value.per_second)} ${setting.unit}/s`
      const unit = setting.unit === 'cycles' ? '' : ` ${setting.unit}`
      return `${numberText(value.per_second)}${unit} /s`
    }
    case 'life':
      return `${valueText(value.start, setting)} to ${valueText(value.end, setting)}`
    case 'jitter':
    case 'pulse':
      return `${valueText(value.value, setting)} ± ${valueText(value.amount, { ...setting, unit: '' })}`
    case 'formula':
      return value.formula
    case 'keys':
      return `${value.keys.length} keys`
  }
}
