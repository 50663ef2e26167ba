/** Values as people read them. */
import { numberText } from '../ui/numbers'
import { type MoveField, moveNamed } from './moves'
import { spoken } from './sentence'
import {
  type Change,
  isMove,
  isPoint,
  type Move,
  type Reference,
  type Setting,
  type Value,
  type XY,
} from './types'

/** What a phase counts: its rate is so many of them a second. */
const COUNTED = new Set(['cycles', 'levels', 'changes', 'paths', 'turns', 's'])
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

/** How a value moves, as its way says it in a few words. */
function movingText(value: Move, setting: Setting): string {
  const entry = moveNamed(value.moves)
  if (!entry) return value.moves
  return entry.says.replace(/\{(\w+)\}/g, (_, name: string) => {
    const field = entry.fields.find((each) => each.name === name)
    return field ? fieldText(value[name], field, setting) : ''
  })
}

function fieldText(held: Move[string] | undefined, field: MoveField, setting: Setting): string {
  if (held === undefined) return ''
  if (field.type === 'change') {
    const change = changeText(held as Change)
    return field.unit ? `${change} ${unitOf(setting)}${field.unit}` : change
  }
  if (Array.isArray(held) && typeof held[0] === 'object') {
    return held.length === 1 ? '1 key' : `${held.length} keys`
  }
  if (typeof held === 'object' && 'layer' in held) {
    const { layer, setting: name } = held as Reference
    return `${spoken(name)} of ${layer}`
  }
  if (typeof held === 'number' || isMove(held as Value)) return valueText(held as Value, setting)
  return Array.isArray(held) ? held.map(textOf).join(', ') : String(held)
}

function textOf(part: unknown): string {
  return typeof part === 'number' ? numberText(part) : String(part)
}

/** The unit of a setting, but for what is counted: so many of them. */
export function unitOf(setting: Setting): string {
  return COUNTED.has(setting.unit) ? '' : setting.unit
}
