/**
 * What can be taken hold of on the picture: the recipe's points, and what the declarations of the
 * chosen source or step and of its limits say is drawn.
 */
import type { Schemas } from '../api/client'
import { changeLayer, changeNode, changeStep, RESULT, setPoint } from './edits'
import { keysOf, shifted } from './moves'
import { oneOf, spoken } from './sentence'
import {
  isMove,
  isPieces,
  isPoint,
  type KindEntry,
  type Node,
  type Piece,
  type Recipe,
  type Setting,
  type Value,
  valueIn,
  type XY,
} from './types'

export type Places = Schemas['PlacesOf']

export interface Handle {
  id: string
  label: string
  at: XY
  /** Where the line that leads to it begins. */
  from?: XY
  /** Whether it stands for a length or an angle, and not for a place. */
  isSize?: boolean
  /** The point of the recipe that it is, if it is one. */
  point?: string
  /** Whether what it moves goes by keys, so that a move sets one here. */
  isKeyed?: boolean
  /** Moved to a place: on this frame, or through all of its motion. */
  moved(recipe: Recipe, to: XY, whole: boolean): Recipe
}

/** A shape about its centre, to be drawn: turned clockwise by degrees. */
export interface Outline {
  id: string
  shape: string
  centre: XY
  width: number
  height: number
  turn: number
}

/** Where the hands are: a layer, or the result, and its source or one of its steps. */
export interface Held {
  layer: string
  /** `source`, or a step's id. */
  card: string
}

/** Px of the canvas to the handle of an angle. */
const ARM = 160

/** The handles and outlines of the recipe at a frame, for the card that is held. */
export function handlesOf(
  recipe: Recipe,
  catalogue: Schemas['Catalogue'],
  held: Held | undefined,
  frame: number,
  places: Places | undefined,
): { handles: Handle[]; outlines: Outline[] } {
  const handles: Handle[] = []
  const outlines: Outline[] = []
  for (const point of recipe.points) {
    const at = isPoint(point.at) ? point.at : places?.points[point.name]
    if (!at) continue
    handles.push({
      id: `point ${point.name}`,
      label: point.name,
      point: point.name,
      at,
      isKeyed: keysOf(point.at) !== undefined,
      moved: (all, to, whole) =>
        setPoint(
          all,
          point.name,
          shifted(point.at, way(at, to), whole ? undefined : { frame, at }),
        ),
    })
  }
  if (!held) return { handles, outlines }
  for (const part of nodesOf(recipe, catalogue, held).flatMap(withPieces)) {
    const { id, kind, node, put, name } = part
    const around: Around = { recipe, frame, places: places?.nodes[id], node, put, id, name }
    for (const setting of kind.settings) {
      const handle = handleOf(setting, kind, around)
      if (handle) handles.push(handle)
    }
    const outline = outlineOf(kind, around)
    if (outline) outlines.push(outline)
  }
  return { handles, outlines }
}

type Declared = Pick<KindEntry, 'settings' | 'outline'>

interface Part {
  /** As the places of a layer name it. */
  id: string
  kind: Declared
  node: { [setting: string]: Value }
  put(recipe: Recipe, change: { [name: string]: Value }): Recipe
  /** Which of several alike it is, if it is one of these. */
  name?: string
}

/** A source, a step or a limit, and each of the pieces that its settings hold. */
function withPieces(part: Part): Part[] {
  const pieces = part.kind.settings.flatMap((setting) => {
    const { pieces: kind, name } = setting
    const all = valueIn(part.node, setting)
    if (!kind || !isPieces(all)) return []
    return all.map((piece, i) => ({
      id: `${part.id}/${name}/${i}`,
      kind: { settings: kind.settings, outline: '' },
      node: piece,
      put: (recipe: Recipe, change: { [name: string]: Value }) =>
        part.put(recipe, { [name]: all.with(i, { ...piece, ...change } as Piece) }),
      name: `${oneOf(name)} ${i + 1}`,
    }))
  })
  return [part, ...pieces]
}

/** The card's source or step, and the limits that stand on it. */
function nodesOf(recipe: Recipe, catalogue: Schemas['Catalogue'], held: Held): Part[] {
  const layer = recipe.layers.find((known) => known.id === held.layer)
  const isSource = held.card === 'source'
  const steps = held.layer === RESULT ? recipe.finish : (layer?.steps ?? [])
  const step = steps.find((known) => known.id === held.card)
  const node = isSource ? layer?.source : step
  if (!node) return []
  const place = { layer: held.layer, ...(!isSource && { step: held.card }) }
  const kinds = isSource ? catalogue.sources : catalogue.steps
  const own = kinds.find((kind) => kind.name === node.kind)
  const limits = (isSource ? layer?.limits : step?.limits) ?? []
  const parts: Part[] = limits.flatMap((limit, i) => {
    const kind = catalogue.limits.find((known) => known.name === limit.kind)
    if (!kind) return []
    return {
      id: isSource ? `limits/${i}` : `${held.card}/${i}`,
      kind,
      node: limit,
      put: (all: Recipe, change: { [name: string]: Value }) => {
        const now = limitsIn(all, held)
        const next = now.map((each, k) => (k === i ? ({ ...each, ...change } as Node) : each))
        return isSource
          ? changeLayer(all, held.layer, { limits: next })
          : changeStep(all, place, { limits: next })
      },
    }
  })
  if (own) {
    parts.unshift({
      id: isSource ? 'source' : held.card,
      kind: own,
      node,
      put: (all, change) => changeNode(all, place, change),
    })
  }
  return parts
}

function limitsIn(recipe: Recipe, held: Held): Node[] {
  const layer = recipe.layers.find((known) => known.id === held.layer)
  if (held.card === 'source') return layer?.limits ?? []
  const steps = held.layer === RESULT ? recipe.finish : (layer?.steps ?? [])
  return steps.find((known) => known.id === held.card)?.limits ?? []
}

interface Around {
  recipe: Recipe
  frame: number
  places: Places['nodes'][string] | undefined
  node: Part['node']
  id: string
  put: Part['put']
  name: string | undefined
}

function numberOf(around: Around, kind: Declared, name: string, absent = 0): number {
  const setting = kind.settings.find((known) => known.name === name)
  const value = setting && valueIn(around.node, setting)
  if (typeof value === 'number') return value
  const told = around.places?.[name]
  return typeof told === 'number' ? told : absent
}

function pointOf(around: Around, kind: Declared, name: string): XY | undefined {
  const setting = kind.settings.find((known) => known.name === name)
  if (!setting) {
    const { width, height } = around.recipe.canvas
    return [width / 2, height / 2]
  }
  const value = valueIn(around.node, setting)
  const at = isPoint(value) ? value : around.places?.[name]
  return isPoint(at) ? at : undefined
}

function handleOf(setting: Setting, kind: Declared, around: Around): Handle | undefined {
  const { node, put, id } = around
  const value = valueIn(node, setting)
  const shared = {
    id: `${id} ${setting.name}`,
    label: labelOf(setting, kind, around.name),
    isKeyed: keysOf(value) !== undefined,
  }
  if (setting.elsewhere) return undefined
  if (setting.type === 'point') {
    const at = pointOf(around, kind, setting.name)
    const sitsOnPoint = isMove(value) && value.point !== undefined && !value.offset
    if (!at || sitsOnPoint) return undefined
    const from = setting.drawn === 'offset' ? pointOf(around, kind, setting.about) : undefined
    const shown: XY = from ? [from[0] + at[0], from[1] + at[1]] : at
    const moved = (all: Recipe, to: XY, whole: boolean) => {
      const moment = whole ? undefined : { frame: around.frame, at }
      return put(all, { [setting.name]: shifted(value, way(shown, to), moment) })
    }
    return { ...shared, at: shown, moved, ...(from && { from, isSize: true }) }
  }
  if (!setting.drawn) return undefined
  const now = isMove(value) ? around.places?.[setting.name] : value
  const centre = anchorOf(setting, kind, around)
  if (!centre || typeof now !== 'number') return undefined
  const turn = setting.drawn === 'direction' ? 0 : turnOf(around, kind)
  const [dx, dy] = wayOf(setting.drawn, turn, now)
  const at: XY = [centre[0] + dx, centre[1] + dy]
  const moved = (all: Recipe, to: XY, whole: boolean) => {
    const next = sizeOf(setting.drawn ?? '', turn, way(centre, to))
    const held = Math.min(setting.most ?? next, Math.max(setting.least ?? next, next))
    const moment = whole ? undefined : { frame: around.frame, at: now }
    return put(all, { [setting.name]: shifted(value, held - now, moment) })
  }
  return { ...shared, at, from: centre, isSize: true, moved }
}

/** A piece goes by its own name where its first place is. */
function labelOf(setting: Setting, kind: Declared, piece: string | undefined): string {
  if (!piece) return spoken(setting.name)
  const first = kind.settings.find((known) => known.type === 'point')
  return setting === first ? piece : `${piece} ${spoken(setting.name)}`
}

/** Where a length or an angle is drawn from. */
function anchorOf(setting: Setting, kind: Declared, around: Around): XY | undefined {
  if (setting.drawn !== 'feather') return pointOf(around, kind, setting.about)
  const outline = outlineOf(kind, around)
  if (!outline) return undefined
  const [x, y] = wayOf('height', outline.turn, outline.height)
  return [outline.centre[0] - x, outline.centre[1] - y]
}

function outlineOf(kind: Declared, around: Around): Outline | undefined {
  if (!kind.outline) return undefined
  const centre = pointOf(around, kind, 'centre')
  if (!centre) return undefined
  return {
    id: around.id,
    shape: kind.outline,
    centre,
    width: numberOf(around, kind, 'width'),
    height: numberOf(around, kind, 'height'),
    turn: turnOf(around, kind),
  }
}

function turnOf(around: Around, kind: Declared): number {
  return kind.outline ? numberOf(around, kind, 'turn') : 0
}

/** From the point to the handle, for a value drawn so, in a shape that is turned. */
function wayOf(drawn: string, turn: number, value: number): XY {
  switch (drawn) {
    case 'direction':
      return turned([ARM, 0], value)
    case 'width':
      return turned([value / 2, 0], turn)
    case 'height':
      return turned([0, value / 2], turn)
    case 'below':
      return [0, value]
    case 'feather':
      return turned([0, -value], turn)
    default:
      return [value * Math.SQRT1_2, value * Math.SQRT1_2]
  }
}

/** The value whose handle is at a way from the point. */
function sizeOf(drawn: string, turn: number, to: XY): number {
  const [x, y] = turned(to, -turn)
  switch (drawn) {
    case 'direction':
      return (Math.atan2(to[1], to[0]) * 180) / Math.PI
    case 'width':
      return 2 * Math.abs(x)
    case 'height':
      return 2 * Math.abs(y)
    case 'below':
      return to[1]
    case 'feather':
      return Math.max(0, -y)
    default:
      return Math.hypot(x, y)
  }
}

function way(from: XY, to: XY): XY {
  return [to[0] - from[0], to[1] - from[1]]
}

function turned([x, y]: XY, degrees: number): XY {
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  return [x * cos - y * sin, x * sin + y * cos]
}
