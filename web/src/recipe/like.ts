/** What a setting can be like: every other of its sort in the recipe, and not itself. */
import type { Schemas } from '../api/client'
import type { Recipe, Reference } from './types'
import type { Where } from './where'

export interface LikeChoice {
  id: string
  label: string
  reference: Reference
}

export function settingsLike(
  recipe: Recipe,
  catalogue: Schemas['Catalogue'],
  type: string,
  where: Where = [],
): LikeChoice[] {
  const itself = where.filter((step) => !['layers', 'steps'].includes(String(step))).join(' ')
  return recipe.layers.flatMap((layer) => {
    const source = catalogue.sources.find((known) => known.name === layer.source.kind)
    const nodes = [
      { of: 'source', kind: source },
      ...layer.steps.map((step) => ({
        of: step.id,
        kind: catalogue.steps.find((known) => known.name === step.kind),
      })),
    ]
    return nodes.flatMap(({ of, kind }) =>
      (kind?.settings ?? [])
        .filter((setting) => setting.type === type)
        .map((setting) => ({
          id: `${layer.id} ${of} ${setting.name}`,
          label: `${setting.name.replaceAll('_', ' ')} of ${layer.name}, ${kind?.title}`,
          reference: { layer: layer.id, of, setting: setting.name },
        }))
        .filter(({ id }) => id !== itself),
    )
  })
}
