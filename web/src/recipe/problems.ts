/** Where a problem is, as a person says it. */
import { spoken } from './sentence'
import type { Recipe } from './types'

/** The layer, the step and the setting that a problem's path leads to; the path's words at least. */
export function whereIs(recipe: Recipe, path: string): string {
  const parts = [...path.matchAll(/(\w+)(?:\[(\d+)\])?/g)].map(([, name = '', index]) => ({
    name,
    index: index === undefined ? undefined : Number(index),
  }))
  const [top, ...rest] = parts
  if (!top) return 'the recipe'
  if (top.name === 'layers' && top.index !== undefined) {
    const layer = recipe.layers[top.index]
    return [layer?.name ?? 'a layer', ...within(rest, layer?.steps ?? [])].join(', ')
  }
  if (top.name === 'finish' && top.index !== undefined) {
    return ['the result', ...within([{ ...top, name: 'steps' }, ...rest], recipe.finish)].join(', ')
  }
  const whole: Record<string, unknown> = { ...recipe }
  const named = whole[top.name]
  const one = Array.isArray(named) && top.index !== undefined ? named[top.index]?.name : undefined
  return [one ?? spoken(top.name), ...rest.slice(0, 1).map((part) => spoken(part.name))].join(', ')
}

interface PathPart {
  name: string
  index: number | undefined
}

/** Within a layer: its source goes without saying, its steps by their kinds. */
function within(parts: PathPart[], steps: { kind: string }[]): string[] {
  const [first, ...rest] = parts
  if (!first) return []
  if (first.name === 'source') return rest.slice(0, 1).map((part) => spoken(part.name))
  const step = first.name === 'steps' ? steps[first.index ?? -1] : undefined
  if (step) return [step.kind, ...rest.slice(0, 1).map((part) => spoken(part.name))]
  return [spoken(first.name)]
}
