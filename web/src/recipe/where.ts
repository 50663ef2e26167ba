/** A place in a recipe from its outside in: fields, ids or names of what has one, and numbers else. */
import { keysOf } from './moves'
import type { Key, Layer, Recipe, Value } from './types'

export type Where = readonly (string | number)[]

type Part = { [name: string]: unknown }

/** What stands at a place, if it is there. */
export function valueAt(recipe: Recipe, where: Where): Value | undefined {
  let part: unknown = recipe
  for (const step of where) {
    const at = keyIn(part, step)
    part = at === undefined ? undefined : (part as Part)[at]
  }
  return part as Value | undefined
}

/** The recipe with another value at a place; itself where there is no such place. */
export function putAt(recipe: Recipe, where: Where, value: Value): Recipe {
  return put(recipe, where, value) as Recipe
}

function put(part: unknown, where: Where, value: Value): unknown {
  const [step, ...rest] = where
  if (step === undefined) return value
  const at = keyIn(part, step)
  if (at === undefined) return part
  const inner = put((part as Part)[at], rest, value)
  return Array.isArray(part) ? part.with(Number(at), inner) : { ...(part as Part), [at]: inner }
}

/** The path of a place, as problems name it. */
export function pathOf(recipe: Recipe, where: Where): string {
  let part: unknown = recipe
  let path = ''
  for (const step of where) {
    const at = keyIn(part, step) ?? step
    path += Array.isArray(part) ? `[${at}]` : path ? `.${at}` : at
    part = (part as Part | undefined)?.[at]
  }
  return path
}

/** In a list, the number of what has an id or a name; else the field. */
function keyIn(part: unknown, step: string | number): string | number | undefined {
  if (typeof part !== 'object' || part === null) return undefined
  if (!Array.isArray(part)) return step
  if (typeof step === 'number') return step in part ? step : undefined
  const at = part.findIndex((each) => (each?.id ?? each?.name) === step)
  return at < 0 ? undefined : at
}

export function sameWhere(one: Where, other: Where): boolean {
  return one.length === other.length && one.every((step, i) => step === other[i])
}

/** The keys of everything of a layer that goes by keys, wherever in it. */
export function keyedValues(layer: Layer): Key[][] {
  const found: Key[][] = []
  const walk = (part: unknown) => {
    if (typeof part !== 'object' || part === null) return
    const keys = keysOf(part as Value)
    if (keys) found.push(keys)
    else for (const inner of Object.values(part)) walk(inner)
  }
  walk([layer.source, layer.steps, layer.limits, layer.opacity])
  return found
}
