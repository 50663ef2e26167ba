/** The recipe document as the bench holds it. What a kind's settings are comes from the catalogue. */
import type { Schemas } from '../api/client'
import type { components } from './outline'

type Written = components['schemas']

export type KindEntry = Schemas['KindEntry']
export type NamedEntry = Schemas['NamedEntry']
export type Setting = Schemas['Setting']

export type XY = [number, number]
export type Three = [number, number, number]
export type Change = Written['Change']
export type Plain = Written['Plain']
export type Key = Written['Key']
export type Ease = NonNullable<Key['ease']>
/** Which setting is meant: of a layer's source, or of one of its steps. */
export type Reference = Written['Reference']
/** A value that moves: in which way, and the fields that the way declares. */
export type Move = Written['Move']
/** One of several alike: a lobe, a stop, a vertex. */
export type Piece = Written['Piece']
export type Value = Written['Value']
export type Node = Written['Node']
export type Step = Written['Step']
export type NamedPoint = Written['NamedPoint']
export type Path = Written['Path']
/** What layers share by name, of a kind that has a card. */
export type Shared = { name: string } & { [setting: string]: Value }
export type Marker = Written['Marker']
export type Element = Written['NamedElement']
/** Whatever a recipe knows by a name. */
export type Named = { name: string }

export type Canvas = Filled<Written['Canvas'], 'width' | 'height' | 'rate' | 'first' | 'last'>
export type Layer = Filled<Written['Layer'], 'steps'>
/** The whole document, with every part that the bench goes through there. */
export type Recipe = Filled<
  Omit<Written['Recipe'], 'canvas' | 'layers'>,
  'seed' | 'cover' | 'points' | 'finish'
> & { canvas: Canvas; layers: Layer[] }

type Filled<T, K extends keyof T> = T & Required<Pick<T, K>>

/** How large pictures of a canvas are in its px: with what they show beyond its edges. */
export function shownSize({ width, height, overscan = 0 }: Canvas) {
  return { width: width + 2 * overscan, height: height + 2 * overscan }
}

export function isMove(value: Value | undefined): value is Move {
  return typeof value === 'object' && value !== null && 'moves' in value
}

export function isPoint(value: Value | Change | undefined): value is XY {
  return Array.isArray(value) && value.length === 2 && typeof value[0] === 'number'
}

export function isPieces(value: Value | undefined): value is Piece[] {
  return Array.isArray(value) && value.every((each) => typeof each === 'object' && each !== null)
}

/** What a node says for a setting, or the setting's default. */
export function valueIn(node: { [setting: string]: Value }, setting: Setting): Value {
  return node[setting.name] ?? (setting.default as Value)
}

/** A recipe from the server with every part there. */
export function complete(written: Record<string, unknown>): Recipe {
  const recipe = written as Partial<Recipe>
  return {
    ...recipe,
    version: 3,
    name: recipe.name ?? 'Element',
    canvas: {
      ...{ width: 1920, height: 1080, rate: 25, first: 1001, last: 1075 },
      ...recipe.canvas,
    },
    seed: recipe.seed ?? 0,
    cover: recipe.cover ?? 'as drawn',
    points: recipe.points ?? [],
    layers: (recipe.layers ?? []).map((layer) => ({ ...layer, steps: layer.steps ?? [] })),
    finish: recipe.finish ?? [],
  }
}
