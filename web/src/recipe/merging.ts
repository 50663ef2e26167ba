/** Another recipe's layers put into one, as a group, with all that they name. */
import type { Schemas } from '../api/client'
import { freeName } from './edits'
import {
  isMove,
  type KindEntry,
  type Layer,
  type Named,
  type Node,
  type Recipe,
  type Step,
  type Value,
} from './types'

type Names = ReadonlyMap<string, string>

/** What things are called in the recipe that they come into, by what they were called before. */
interface Renaming {
  layers: Names
  points: Names
  tracks: Names
  sways: Names
  paths: Names
  elements: Names
  /** How many frames later everything happens. */
  later: number
}

/** The recipe with another's layers in a group of their own at its end, and the group's id. */
export function merged(
  recipe: Recipe,
  other: Recipe,
  catalogue: Schemas['Catalogue'],
): [Recipe, string] {
  const ids = recipe.layers.map((layer) => layer.id)
  const group = freeName('group', ids, '-')
  const renaming: Renaming = {
    layers: renamed(
      other.layers.map((layer) => layer.id),
      [...ids, group],
      '-',
    ),
    points: renamedAll(other.points, recipe.points),
    tracks: renamedAll(other.tracks, recipe.tracks),
    sways: renamedAll(other.sways, recipe.sways),
    paths: renamedAll(other.paths, recipe.paths),
    elements: renamedAll(other.elements, recipe.elements),
    later: recipe.canvas.first - other.canvas.first,
  }
  const layers = other.layers.map((layer) => movedLayer(layer, renaming, catalogue, group))
  const steps = other.finish.map((step) => movedNode(step, renaming, catalogue.steps) as Step)
  const taken = recipe.layers.map((layer) => layer.name)
  const name = freeName(other.name, taken, ' ')
  const whole: Layer = { id: group, name, source: { kind: 'group' }, steps, blend: 'add' }
  const next = {
    ...recipe,
    points: [...recipe.points, ...movedNamed(other.points, renaming.points, renaming)],
    tracks: [...(recipe.tracks ?? []), ...movedNamed(other.tracks, renaming.tracks, renaming)],
    sways: [...(recipe.sways ?? []), ...movedNamed(other.sways, renaming.sways, renaming)],
    paths: [...(recipe.paths ?? []), ...movedNamed(other.paths, renaming.paths, renaming)],
    elements: [
      ...(recipe.elements ?? []),
      ...(other.elements ?? []).map((each) => ({
        ...each,
        name: renaming.elements.get(each.name) ?? each.name,
      })),
    ],
    layers: [...recipe.layers, whole, ...layers],
  }
  return [next, group]
}

function movedLayer(
  layer: Layer,
  renaming: Renaming,
  catalogue: Schemas['Catalogue'],
  group: string,
): Layer {
  const { later, layers } = renaming
  const limits = layer.limits?.map((limit) => movedNode(limit, renaming, catalogue.limits))
  return {
    ...(movedValue(layer as unknown as Value, renaming) as unknown as Layer),
    id: layers.get(layer.id) ?? layer.id,
    within: layer.within ? layers.get(layer.within) : group,
    source: movedNode(layer.source, renaming, catalogue.sources),
    steps: layer.steps.map((step) => ({
      ...(movedNode(step, renaming, catalogue.steps) as Step),
      ...(step.limits && {
        limits: step.limits.map((limit) => movedNode(limit, renaming, catalogue.limits)),
      }),
    })),
    ...(limits && { limits }),
    ...(layer.first !== undefined && { first: layer.first + later }),
    ...(layer.last !== undefined && { last: layer.last + later }),
  }
}

/** A node whose settings name layers, sways, paths and elements by what they are called now. */
function movedNode<N extends Node>(node: N, renaming: Renaming, kinds: KindEntry[]): N {
  const settings = kinds.find((kind) => kind.name === node.kind)?.settings ?? []
  const parts = Object.entries(node).map(([name, value]): [string, Value] => {
    const setting = settings.find((known) => known.name === name)
    const names = {
      layer: renaming.layers,
      element: renaming.elements,
      named: setting?.of === 'sway' ? renaming.sways : renaming.paths,
    }[setting?.type ?? '']
    const now = typeof value === 'string' ? names?.get(value) : undefined
    return [name, now ?? movedValue(value, renaming)]
  })
  return Object.fromEntries(parts) as N
}

/** A value, and all within it that moves, with the points, tracks and layers that it follows. */
function movedValue(value: Value, renaming: Renaming): Value {
  if (Array.isArray(value)) {
    return (value as Value[]).map((each) => movedValue(each, renaming)) as Value
  }
  if (typeof value !== 'object' || value === null) return value
  const inner = Object.fromEntries(
    Object.entries(value).map(([name, part]) => [name, movedValue(part as Value, renaming)]),
  ) as Value
  if (!isMove(inner)) return inner
  switch (inner.moves) {
    case 'follow':
      return {
        ...inner,
        ...(inner.point !== undefined && { point: renaming.points.get(inner.point) }),
        ...(inner.track !== undefined && { track: renaming.tracks.get(inner.track) }),
      } as Value
    case 'like': {
      const layer = renaming.layers.get(inner.setting.layer) ?? inner.setting.layer
      return { ...inner, setting: { ...inner.setting, layer } }
    }
    case 'keys':
      return {
        ...inner,
        keys: inner.keys.map((key) => ({ ...key, frame: key.frame + renaming.later })),
      }
    default:
      return inner
  }
}

function movedNamed<T extends Named>(all: T[] | undefined, names: Names, renaming: Renaming): T[] {
  return (all ?? []).map((each) => ({
    ...(movedValue(each as unknown as Value, renaming) as unknown as T),
    name: names.get(each.name) ?? each.name,
  }))
}

function renamedAll(all: Named[] | undefined, here: Named[] | undefined): Names {
  return renamed(
    (all ?? []).map((each) => each.name),
    (here ?? []).map((each) => each.name),
    ' ',
  )
}

function renamed(names: string[], taken: string[], gap: string): Names {
  const found = new Map<string, string>()
  for (const name of names) found.set(name, freeName(name, [...taken, ...found.values()], gap))
  return found
}
