/** Changes to a recipe. Each takes a recipe and gives another; nothing is changed in place. */
import { withKey } from './keys'
import type {
  KindEntry,
  Layer,
  NamedPoint,
  Node,
  Rate,
  Recipe,
  Step,
  Sway,
  Value,
  XY,
} from './types'
import { isMove, isPoint } from './types'

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

/** Change a setting of a sway that layers share. */
export function changeSway(recipe: Recipe, name: string, setting: string, value: Value): Recipe {
  const sways = recipe.sways?.map((sway) =>
    sway.name === name ? { ...sway, [setting]: value } : sway,
  )
  return { ...recipe, sways }
}

/** The sways that a layer's source and steps name. */
export function swaysOf(recipe: Recipe, layer: Layer, kinds: KindEntry[]): Sway[] {
  const names = [layer.source, ...layer.steps].flatMap((node) => {
    const settings = kinds.find((kind) => kind.name === node.kind)?.settings ?? []
    return settings.filter((setting) => setting.of === 'sway').map(({ name }) => node[name])
  })
  return recipe.sways?.filter((sway) => names.includes(sway.name)) ?? []
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
  const none: Size = typeof by === 'number' ? 0 : [0, 0]
  if (!isMove(value)) return more(value as Size, by)
  if (value.moves === 'keys' && moment) {
    return { ...value, keys: withKey(value.keys, moment.frame, more(moment.at, by)) }
  }
  switch (value.moves) {
    case 'like':
      return { ...value, offset: more((value.offset ?? none) as Size, by) }
    case 'follow':
      return { ...value, offset: more(value.offset ?? none, by) as XY }
    case 'rate':
      return { ...value, start: more(value.start as Size, by) }
    case 'jitter':
    case 'pulse':
    case 'formula':
      return { ...value, value: shifted(value.value, by) as Size | Rate }
    case 'keys': {
      const keys = value.keys.map((key) => ({ ...key, value: more(key.value as Size, by) }))
      return { ...value, keys }
    }
    case 'life':
      return { ...value, start: more(value.start as Size, by), end: more(value.end as Size, by) }
  }
}

function more(value: Size, by: Size): Size {
  if (typeof value === 'number') return Math.round((value + (by as number)) * 10) / 10
  return rounded(sum(value, by as XY))
}

/** Put a point elsewhere, or have it move otherwise. */
export function setPoint(recipe: Recipe, name: string, at: Value): Recipe {
  const points = recipe.points.map((point) =>
    point.name === name ? { ...point, at: at as NamedPoint['at'] } : point,
  )
  return { ...recipe, points }
}

/** Where a point is at a frame; what shakes is shown where it rests, keys are not worked out here. */
export function placeAt(
  recipe: Recipe,
  value: Value,
  frame: number,
  begins = recipe.canvas.first,
): XY | undefined {
  if (!isMove(value)) return isPoint(value) ? value : undefined
  switch (value.moves) {
    case 'follow': {
      const point = recipe.points.find((known) => known.name === value.point)
      const at = point && placeAt(recipe, point.at, frame)
      return at && sum(at, value.offset ?? [0, 0])
    }
    case 'rate': {
      const elapsed = elapsedAt(recipe, value, frame, begins)
      const [dx, dy] = value.per_second as XY
      return sum(value.start as XY, [dx * elapsed, dy * elapsed])
    }
    case 'jitter':
    case 'pulse':
    case 'formula':
      return placeAt(recipe, value.value, frame, begins)
    case 'keys': {
      const at = value.keys.findLast((key) => key.frame <= frame) ?? value.keys[0]
      return at?.frame === frame ? (at.value as XY) : undefined
    }
    default:
      return undefined
  }
}

/** Seconds that a rate has run at a frame, in a layer that begins at another. */
export function elapsedAt(
  recipe: Recipe,
  rate: Rate,
  frame: number,
  begins = recipe.canvas.first,
): number {
  const start = rate.since === 'layer' ? begins : recipe.canvas.first
  return (frame - start) / recipe.canvas.rate + (rate.offset ?? 0)
}

/** The first frame on which a layer shows, or the shot's where there is no such layer. */
export function beginsAt(recipe: Recipe, id: string | undefined): number {
  return recipe.layers.find((layer) => layer.id === id)?.first ?? recipe.canvas.first
}

/** A recipe for a new shot: one strike between two points, near what a first one needs. */
export function firstRecipe(name: string): Recipe {
  return {
    version: 2,
    name,
    canvas: { width: 1920, height: 1080, rate: 25, first: 1001, last: 1050 },
    seed: 1,
    cover: 'from light',
    points: [
      { name: 'from', at: [640, 90] },
      { name: 'to', at: [1240, 930] },
    ],
    layers: [
      {
        id: 'bolt',
        name: 'Bolt',
        source: {
          kind: 'bolt',
          start: { moves: 'follow', point: 'from' },
          end: { moves: 'follow', point: 'to' },
        },
        steps: [{ kind: 'glow', id: 'glow' }],
        blend: 'add',
      },
    ],
    finish: [],
  }
}

export function freeName(wish: string, taken: string[], gap: string): string {
  if (!taken.includes(wish)) return wish
  let number = 2
  while (taken.includes(`${wish}${gap}${number}`)) number += 1
  return `${wish}${gap}${number}`
}

function sum([x, y]: XY, [dx, dy]: XY): XY {
  return [x + dx, y + dy]
}

function rounded([x, y]: XY): XY {
  return [Math.round(x * 10) / 10, Math.round(y * 10) / 10]
}

/** A shot as it is read to be placed in another. */
interface Placed {
  id: string
  name: string
  revision: number
  recipe: object
}

/** An element as its shot is at another revision. */
export function changeElement(recipe: Recipe, name: string, shot: Placed): Recipe {
  const elements = recipe.elements?.map((element) =>
    element.name === name ? { ...element, revision: shot.revision, recipe: shot.recipe } : element,
  )
  return { ...recipe, elements }
}
