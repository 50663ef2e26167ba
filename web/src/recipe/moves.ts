/** Ways of moving, as the engine declares them: what is known of each, and what follows from it. */
import type { Schemas } from '../api/client'
import { withKey } from './keys'
import {
  type Change,
  isMove,
  type Key,
  type Move,
  type Plain,
  type Recipe,
  type Reference,
  type Setting,
  type Three,
  type Value,
  type XY,
} from './types'

export type MoveEntry = Schemas['MoveEntry']
export type MoveField = Schemas['MoveField']

const known = new Map<string, MoveEntry>()

/** Take note of the ways that there are. */
export function knowMoves(entries: readonly MoveEntry[]) {
  known.clear()
  for (const entry of entries) known.set(entry.name, entry)
}

export function moveNamed(name: string): MoveEntry | undefined {
  return known.get(name)
}

/** A number, or a place. */
export type Size = number | XY

/** A moment of a moving value: a frame, and what it is on it. */
export interface Moment {
  frame: number
  at: Size
}

/**
 * A number or a place changed by so much: what is still is set, what moves does so elsewhere. What
 * goes by keys gets one at a moment, if that is given, or changes as a whole.
 */
export function shifted(value: Value, by: Size, moment?: Moment): Value {
  if (!isMove(value)) return more(value as Size, by)
  const keys = keysOf(value)
  if (keys && moment) {
    return { ...value, keys: withKey(keys, moment.frame, more(moment.at, by)) }
  }
  const carried = moveNamed(value.moves)?.carried ?? []
  return { ...value, ...Object.fromEntries(carried.map((name) => [name, part(value[name], by)])) }
}

/** A field of a move that is carried along; one that is left out was nothing. */
function part(field: Move[string] | undefined, by: Size): Move[string] {
  if (field === undefined) return more(typeof by === 'number' ? 0 : [0, 0], by)
  if (isKeys(field)) return field.map((key) => ({ ...key, value: more(key.value as Size, by) }))
  return shifted(field as Value, by) as Move[string]
}

/** The keys of a value, if it goes by keys. */
export function keysOf(value: Value | undefined): Key[] | undefined {
  return isMove(value) && isKeys(value.keys) ? value.keys : undefined
}

function isKeys(field: Move[string] | undefined): field is Key[] {
  return Array.isArray(field) && typeof field[0] === 'object'
}

function more(value: Size, by: Size): Size {
  if (typeof value === 'number') return tenths(value + (by as number))
  const [dx, dy] = by as XY
  return [tenths(value[0] + dx), tenths(value[1] + dy)]
}

function tenths(value: number): number {
  return Math.round(value * 10) / 10
}

/** What a value may begin to move from, and what it may name. */
export interface Beginning {
  setting: Setting
  now: Plain
  frame: number
  recipe: Recipe
  /** The first setting that it could be like. */
  like?: Reference
}

/** A value as it begins to move in some way; nothing if there is not yet what that way must name. */
export function begun(way: string, from: Beginning): Move | undefined {
  const move: Move = { moves: way }
  for (const field of moveNamed(way)?.fields ?? []) {
    if (field.names.length > 0) {
      const named = namesFor(field, from.recipe)[0]
      if (!named) return undefined
      Object.assign(move, named.change)
    } else if (field.type === 'setting') {
      if (!from.like) return undefined
      move[field.name] = from.like
    } else if (field.begins !== null) move[field.name] = beginning(field, from)
  }
  return move
}

function beginning(field: MoveField, { setting, now, frame }: Beginning): Move[string] {
  if (field.type === 'keys') return [{ frame, value: now }]
  if (field.begins === 'now') return now
  if (field.begins !== 'none') return field.begins as Plain
  if (setting.type === 'colour') return field.type === 'still' ? '#000000' : ([0, 0, 0] as Three)
  if (Array.isArray(now)) return [0, 0]
  return field.type === 'still' ? Math.max(0, setting.least ?? 0) : 0
}

/** What a field may name: each with what stands for it in the move. */
export function namesFor(field: MoveField, recipe: Recipe) {
  return field.names.flatMap((list) => {
    const one = list.slice(0, -1)
    const prefix = list === field.names[0] ? '' : `${one} `
    const all = (recipe[list as keyof Recipe] ?? []) as { name: string }[]
    return all.map(({ name }) => ({
      label: prefix + name,
      change: { ...none(field), [one]: name },
    }))
  })
}

function none(field: MoveField): Record<string, string | undefined> {
  return Object.fromEntries(field.names.map((list) => [list.slice(0, -1), undefined]))
}

/** A move with some fields changed, or gone where nothing stands for them. */
export function withFields(move: Move, change: Record<string, Move[string] | undefined>): Move {
  const left = { ...move }
  for (const [name, value] of Object.entries(change)) {
    if (value === undefined) delete left[name]
    else left[name] = value
  }
  return left
}

/** What a field of a move holds: what is written, or what it is if it is left out. */
export function held(move: Move, field: MoveField, setting: Setting): Value | Change {
  const written = move[field.name] as Value | Change | undefined
  if (written !== undefined) return written
  if (field.absent !== null) return field.absent as Plain
  if (field.type === 'share') return 1
  if (setting.type === 'colour') return [0, 0, 0]
  return setting.type === 'point' ? [0, 0] : 0
}
