/** Layers that come into a recipe, are made from others, or go. */
import type { Schemas } from '../api/client'
import { freeName } from './edits'
import {
  complete,
  isMove,
  type KindEntry,
  type Layer,
  type Node,
  type Recipe,
  type Step,
  type Value,
} from './types'

/**
 * Another layer at the end, its ends on the first two points if there are two; one that is made
 * from another layer begins with `of`.
 */
export function addLayer(recipe: Recipe, entry: KindEntry, of?: string): [Recipe, string] {
  const { name: kind, title } = entry
  const id = freeName(
    kind,
    recipe.layers.map((layer) => layer.id),
    '-',
  )
  const name = freeName(
    title,
    recipe.layers.map((layer) => layer.name),
    ' ',
  )
  const has = (setting: string) => entry.settings.some((known) => known.name === setting)
  const source: Node = { kind }
  if (has('seed')) source.seed = recipe.layers.length + 1
  const looks = entry.settings.find((setting) => setting.name === 'of' && setting.type === 'layer')
  if (looks && of) source.of = of
  const [start, end] = recipe.points
  if (start && has('start')) source.start = { moves: 'follow', point: start.name }
  if (end && has('end')) source.end = { moves: 'follow', point: end.name }
  const steps: Step[] = entry.family === 'energy' ? [{ kind: 'glow', id: 'glow' }] : []
  const layer: Layer = { id, name, source, steps, blend: 'add' }
  return [{ ...recipe, layers: [...recipe.layers, layer] }, id]
}

/** The layers that others are made from, or that limit or lead them. */
export function namedLayers(recipe: Recipe, catalogue: Schemas['Catalogue']): string[] {
  const kinds = [...catalogue.sources, ...catalogue.steps, ...catalogue.limits]
  const limited = (nodes: { limits?: Node[] }[]) => nodes.flatMap(({ limits = [] }) => limits)
  const nodes: Node[] = [
    ...recipe.layers.flatMap((layer) => [layer.source, ...layer.steps, ...limited(layer.steps)]),
    ...limited(recipe.layers),
    ...recipe.finish,
    ...limited(recipe.finish),
  ]
  return nodes.flatMap((node) => {
    const settings = kinds.find((kind) => kind.name === node.kind)?.settings ?? []
    return settings.filter(({ type }) => type === 'layer').map(({ name }) => String(node[name]))
  })
}

/** A shot as it is read to be placed in another. */
interface Placed {
  id: string
  name: string
  revision: number
  recipe: object
}

/** A layer with another shot's recipe as an element, in the middle of the canvas. */
export function addElementLayer(recipe: Recipe, shot: Placed): [Recipe, string] {
  const elements = recipe.elements ?? []
  const taken = elements.map((element) => element.name)
  const name = freeName(shot.name.slice(0, 74), taken, ' ')
  const id = freeName(
    'element',
    recipe.layers.map((layer) => layer.id),
    '-',
  )
  const { width, height } = recipe.canvas
  const own = complete(shot.recipe as Record<string, unknown>).canvas
  const source: Node = {
    kind: 'element',
    of: name,
    at: [width / 2, height / 2],
    pivot: [own.width / 2, own.height / 2],
  }
  const layer: Layer = { id, name, source, steps: [], blend: 'add' }
  const element = { name, shot: shot.id, revision: shot.revision, recipe: shot.recipe }
  const layers = [...recipe.layers, layer]
  return [{ ...recipe, elements: [...elements, element], layers }, id]
}

/** An element as its shot is at another revision. */
export function changeElement(recipe: Recipe, name: string, shot: Placed): Recipe {
  const elements = recipe.elements?.map((element) =>
    element.name === name ? { ...element, revision: shot.revision, recipe: shot.recipe } : element,
  )
  return { ...recipe, elements }
}

/** A copy right after its original, with another seed, so that it does not repeat it. */
export function duplicateLayer(recipe: Recipe, id: string): [Recipe, string] {
  const index = recipe.layers.findIndex((layer) => layer.id === id)
  const original = recipe.layers[index]
  if (!original) return [recipe, id]
  const copyId = freeName(
    id,
    recipe.layers.map((layer) => layer.id),
    '-',
  )
  const name = freeName(
    original.name,
    recipe.layers.map((layer) => layer.name),
    ' ',
  )
  const seed = typeof original.source.seed === 'number' ? original.source.seed + 1 : 1
  const copy = { ...original, id: copyId, name, source: { ...original.source, seed } as Node }
  const layers = [...recipe.layers.slice(0, index + 1), copy, ...recipe.layers.slice(index + 1)]
  return [{ ...recipe, layers }, copyId]
}

/** A layer made from another one, right after it, that mixes and lives as it does. */
function madeFrom(recipe: Recipe, original: Layer, verb: string, source: Node): [Layer, string] {
  const ids = recipe.layers.map((layer) => layer.id)
  const id = freeName(source.kind, ids, '-')
  const name = freeName(
    `${verb} of ${original.name}`.slice(0, 74),
    recipe.layers.map((layer) => layer.name),
    ' ',
  )
  const { blend, opacity, life, first, last, within } = original
  return [{ id, name, source, steps: [], blend, opacity, life, first, last, within }, id]
}

/** A layer that shows another one again, right after it, linked and with another seed. */
export function linkLayer(recipe: Recipe, id: string): [Recipe, string] {
  const index = recipe.layers.findIndex((layer) => layer.id === id)
  const original = recipe.layers[index]
  if (!original) return [recipe, id]
  const [copy, copyId] = madeFrom(recipe, original, 'Copy', { kind: 'copy', of: id })
  return [{ ...recipe, layers: recipe.layers.toSpliced(index + 1, 0, copy) }, copyId]
}

/** A layer that shows another one several times, which is off by itself from then on. */
export function repeatLayer(recipe: Recipe, id: string): [Recipe, string] {
  const index = recipe.layers.findIndex((layer) => layer.id === id)
  const original = recipe.layers[index]
  if (!original) return [recipe, id]
  const source: Node = { kind: 'repeat', of: id, count: 3 }
  const [repeat, repeatId] = madeFrom(recipe, original, 'Repeat', source)
  const layers = recipe.layers.toSpliced(index, 1, { ...original, on: false }, repeat)
  return [{ ...recipe, layers }, repeatId]
}

/** What a layer is limited by, as one says it: the name of a path or a layer, or a shape. */
export function limitedBy(recipe: Recipe, layer: Layer): string {
  const names = (layer.limits ?? []).map((limit) => {
    const other = recipe.layers.find((known) => known.id === limit.layer)
    return other?.name ?? (typeof limit.path === 'string' && limit.path ? limit.path : limit.kind)
  })
  return names.join(', ')
}

/** Without a layer; what named it names none, and what belonged to it as a group stands alone. */
export function removeLayer(recipe: Recipe, id: string): Recipe {
  const layers = recipe.layers
    .filter((layer) => layer.id !== id)
    .map((layer) => ({
      ...layer,
      source: unnamed(layer.source, id),
      steps: layer.steps.map((step) => withoutLayer(step, id)),
      ...(layer.limits && { limits: layer.limits.map((limit) => unnamed(limit, id)) }),
      ...(layer.within === id && { within: null }),
    }))
  return { ...recipe, layers, finish: recipe.finish.map((step) => withoutLayer(step, id)) }
}

function withoutLayer(step: Step, id: string): Step {
  const limits = step.limits?.map((limit) => unnamed(limit, id))
  return { ...unnamed(step, id), ...(limits && { limits }) }
}

/** The settings by which kinds name another layer, and those that are like one of its settings. */
const NAMES_A_LAYER = ['of', 'by', 'layer']

function unnamed<N extends Node>(node: N, id: string): N {
  const kept = Object.entries(node).flatMap(([name, value]): [string, Value][] => {
    if (NAMES_A_LAYER.includes(name) && value === id) return [[name, '']]
    const isLike = isMove(value) && value.moves === 'like' && value.setting.layer === id
    return isLike ? [] : [[name, value]]
  })
  return Object.fromEntries(kept) as N
}
