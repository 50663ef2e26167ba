/** What layers are named by, and what they name. */
import type { Schemas } from '../api/client'
import type { Layer, Node, Recipe } from './types'

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

/** What a layer is limited by, as one says it: the name of a path or a layer, or a shape. */
export function limitedBy(recipe: Recipe, layer: Layer): string {
  const names = (layer.limits ?? []).map((limit) => {
    const other = recipe.layers.find((known) => known.id === limit.layer)
    return other?.name ?? (typeof limit.path === 'string' && limit.path ? limit.path : limit.kind)
  })
  return names.join(', ')
}
