/** Where a moving value of a layer is: in its source, in a step, or its opacity. */
import { changeLayer, changeNode } from './edits'
import { isMove, type Keys, type Layer, type Recipe, type Value } from './types'

export interface Lane {
  /** `source`, a step's id, or `layer`. */
  of: string
  setting: string
}

/** A setting of a layer, and where it is. */
export interface Place extends Lane {
  layer: string
}

/** The path of a setting in the recipe, as problems name it. */
export function pathOf(recipe: Recipe, { layer, of, setting }: Place): string {
  const at = recipe.layers.findIndex((known) => known.id === layer)
  if (of === 'layer') return `layers[${at}].${setting}`
  if (of === 'source') return `layers[${at}].source.${setting}`
  const step = recipe.layers[at]?.steps.findIndex((known) => known.id === of)
  return `layers[${at}].steps[${step}].${setting}`
}

export function laneValue(layer: Layer, lane: Lane): Value | undefined {
  if (lane.of === 'layer') return layer.opacity
  const node = lane.of === 'source' ? layer.source : layer.steps.find((step) => step.id === lane.of)
  return node?.[lane.setting]
}

export function putLane(recipe: Recipe, layer: string, lane: Lane, value: Value): Recipe {
  if (lane.of === 'layer') return changeLayer(recipe, layer, { opacity: value })
  const step = lane.of === 'source' ? undefined : lane.of
  return changeNode(recipe, { layer, ...(step && { step }) }, { [lane.setting]: value })
}

/** Every value of a layer that goes by keys. */
export function keyedValues(layer: Layer): Keys[] {
  const nodes = [layer.source, ...layer.steps].flatMap((node) => Object.values(node))
  return [...nodes, layer.opacity].filter(
    (value): value is Keys => isMove(value as Value) && (value as Keys).moves === 'keys',
  )
}
