/** The recipe document as the bench holds it. What a kind's settings are comes from the catalogue. */
import type { Schemas } from '../api/client'

export type KindEntry = Schemas['KindEntry']
export type Setting = Schemas['Setting']

export type XY = [number, number]
export type Three = [number, number, number]
export type Change = number | XY | Three
export type Plain = number | string | boolean | XY
export type Ease = 'hold' | 'linear' | 'smooth' | [number, number, number, number]
export type Key = { frame: number; value: Plain; ease?: Ease }
/** Which setting is meant: of a layer's source, or of one of its steps. */
export type Reference = { layer: string; of?: string; setting: string }
/** A value that moves: in which way, and the fields that the way declares. */
export type Move = { moves: string } & {
  [field: string]: Plain | Change | Move | Key[] | Reference | string[] | undefined
}
/** One of several alike: a lobe, a stop, a vertex. */
export type Piece = { [setting: string]: Value }
export type Value = Plain | Move | Piece[]

export type Node = { kind: string } & { [setting: string]: Value }
export type Step = Node & { id: string; on?: boolean; limits?: Node[] }

export interface Canvas {
  width: number
  height: number
  rate: number
  first: number
  last: number
  overscan?: number
  drop_frame?: boolean
}

/** A frame to be found again, and why. */
export interface Marker {
  frame: number
  says?: string
}

export interface NamedPoint {
  name: string
  at: XY | Move
}

/** Another shot's recipe as it was at a revision, to be placed as an element. */
export type Element = { name: string; shot?: string; revision?: number; recipe: object }

/** What several layers share by name: sways, paths and tracks. */
export type Named = { name: string }
/** A sway and its settings. */
export type Sway = Named & { [setting: string]: Value }

export interface Layer {
  id: string
  name: string
  on?: boolean
  within?: string | null
  source: Node
  steps: Step[]
  limits?: Node[]
  blend?: string
  /** What the blend acts on: `light`, or `seen`. */
  blends_in?: string
  opacity?: Value
  life?: { [name: string]: Value }
  shutter?: { [name: string]: Value }
  first?: number
  last?: number
}

export interface Recipe {
  version: 2
  name: string
  canvas: Canvas
  seed: number
  cover: string
  loop?: number
  markers?: Marker[]
  points: NamedPoint[]
  tracks?: Named[]
  sways?: Sway[]
  paths?: Named[]
  elements?: Element[]
  layers: Layer[]
  finish: Step[]
}

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

/** What a node says for a setting, or the setting's default. */
export function valueIn(node: { [setting: string]: Value }, setting: Setting): Value {
  return node[setting.name] ?? (setting.default as Value)
}

/** A recipe from the server with every part there. */
export function complete(written: Record<string, unknown>): Recipe {
  const recipe = written as Partial<Recipe>
  return {
    ...recipe,
    version: 2,
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
