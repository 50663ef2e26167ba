/** Changes to a recipe. Each takes a recipe and gives another; nothing is changed in place. */
import type {
  Element,
  KindEntry,
  Layer,
  NamedEntry,
  NamedPoint,
  Node,
  Recipe,
  Shared,
  Step,
  Value,
} from './types'

/** Where a node is: a layer's source, or one of its steps, or one of the finish. */
export interface Place {
  layer: string
  step?: string
}

/** Stands in the place of a layer for the steps on the mixed result. */
export const RESULT = ' result'

/** The steps of a layer, or of the finish. */
export function stepsOf(recipe: Recipe, layer: string): Step[] {
  if (layer === RESULT) return recipe.finish
  return recipe.layers.find((known) => known.id === layer)?.steps ?? []
}

function withSteps(recipe: Recipe, layer: string, steps: Step[]): Recipe {
  return layer === RESULT ? { ...recipe, finish: steps } : changeLayer(recipe, layer, { steps })
}

export function changeLayer(recipe: Recipe, id: string, change: Partial<Layer>): Recipe {
  const layers = recipe.layers.map((layer) => (layer.id === id ? { ...layer, ...change } : layer))
  return { ...recipe, layers }
}

/** Change one of the times or the level of a layer's life. */
export function changeLife(recipe: Recipe, id: string, name: string, value: Value): Recipe {
  const life = recipe.layers.find((layer) => layer.id === id)?.life
  return changeLayer(recipe, id, { life: { ...life, [name]: value } })
}

/** Change how long a layer's frame is open, or how often it is looked at in that time. */
export function changeShutter(recipe: Recipe, id: string, name: string, value: Value): Recipe {
  const shutter = recipe.layers.find((layer) => layer.id === id)?.shutter
  return changeLayer(recipe, id, { shutter: { ...shutter, [name]: value } })
}

/** What a recipe has of a kind that layers share by name. */
export function sharedOf(recipe: Recipe, kind: NamedEntry): Shared[] {
  return ((recipe as unknown as Record<string, Shared[] | undefined>)[kind.listed] ?? []).slice()
}

/** Change a setting of what layers share. */
export function changeShared(
  recipe: Recipe,
  kind: NamedEntry,
  name: string,
  setting: string,
  value: Value,
): Recipe {
  const all = sharedOf(recipe, kind).map((each) =>
    each.name === name ? { ...each, [setting]: value } : each,
  )
  return { ...recipe, [kind.listed]: all }
}

/** What of a kind a layer's source and steps name. */
export function namedBy(
  recipe: Recipe,
  layer: Layer,
  kinds: KindEntry[],
  named: NamedEntry,
): Shared[] {
  const names = [layer.source, ...layer.steps].flatMap((node) => {
    const settings = kinds.find((kind) => kind.name === node.kind)?.settings ?? []
    return settings.filter((setting) => setting.of === named.name).map(({ name }) => node[name])
  })
  return sharedOf(recipe, named).filter((each) => names.includes(each.name))
}

export function changeNode(recipe: Recipe, place: Place, change: Partial<Node>): Recipe {
  if (place.step !== undefined) {
    const steps = stepsOf(recipe, place.layer).map((step) =>
      step.id === place.step ? ({ ...step, ...change } as Step) : step,
    )
    return withSteps(recipe, place.layer, steps)
  }
  const layers = recipe.layers.map((layer) =>
    layer.id === place.layer ? { ...layer, source: { ...layer.source, ...change } as Node } : layer,
  )
  return { ...recipe, layers }
}

/** Change what a step has beside its settings. */
export function changeStep(recipe: Recipe, place: Place, change: Pick<Step, 'limits'>): Recipe {
  return changeNode(recipe, place, change as Partial<Node>)
}

export function removeStep(recipe: Recipe, layer: string, id: string): Recipe {
  return withSteps(
    recipe,
    layer,
    stepsOf(recipe, layer).filter((step) => step.id !== id),
  )
}

/** A step so many places later in its list, as far as there are any. */
export function moveStep(recipe: Recipe, layer: string, id: string, by: number): Recipe {
  return withSteps(recipe, layer, shiftedIn(stepsOf(recipe, layer), id, by))
}

/** A layer so many places later in the sum. */
export function moveLayer(recipe: Recipe, id: string, by: number): Recipe {
  return { ...recipe, layers: shiftedIn(recipe.layers, id, by) }
}

function shiftedIn<T extends { id: string }>(all: T[], id: string, by: number): T[] {
  const from = all.findIndex((each) => each.id === id)
  const moved = all[from]
  const to = Math.min(all.length - 1, Math.max(0, from + by))
  if (!moved || to === from) return all
  const others = all.filter((each) => each !== moved)
  return [...others.slice(0, to), moved, ...others.slice(to)]
}

/** Put a point elsewhere, or have it move otherwise. */
export function setPoint(recipe: Recipe, name: string, at: Value): Recipe {
  const points = recipe.points.map((point) =>
    point.name === name ? { ...point, at: at as NamedPoint['at'] } : point,
  )
  return { ...recipe, points }
}

export function freeName(wish: string, taken: string[], gap: string): string {
  if (!taken.includes(wish)) return wish
  let number = 2
  while (taken.includes(`${wish}${gap}${number}`)) number += 1
  return `${wish}${gap}${number}`
}

/** A shot as it is read to be placed in another. */
interface Placed {
  id: string
  name: string
  revision: number
  recipe: Record<string, unknown>
}

/** An element as its shot is at another revision. */
export function changeElement(recipe: Recipe, name: string, shot: Placed): Recipe {
  const placed = shot.recipe as Element['recipe']
  const elements = recipe.elements?.map((element) =>
    element.name === name ? { ...element, revision: shot.revision, recipe: placed } : element,
  )
  return { ...recipe, elements }
}
