import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { changeNode, movePoint, placeAt, shifted } from '../recipe/edits'
import { spoken } from '../recipe/sentence'
import { isMove, type Recipe, type Value, valueIn, type XY } from '../recipe/types'
import { HandleDot } from './HandleDot'
import { useBench } from './store'

interface Handle {
  id: string
  label: string
  at: XY
  moved(recipe: Recipe, by: XY): Recipe
}

/** The recipe's points, and the chosen layer's own ones, to be dragged on the picture. */
export function Handles({ width, height }: { width: number; height: number }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing } = useBench()
  const catalogue = useQuery(catalogueQuery)
  if (!recipe || playing) return null

  const handles: Handle[] = []
  for (const point of recipe.points) {
    const at = placeAt(recipe, point.at, frame)
    if (at) {
      const moved = (all: Recipe, by: XY) => movePoint(all, point.name, by)
      handles.push({ id: `point ${point.name}`, label: point.name, at, moved })
    }
  }
  const layer = recipe.layers.find((known) => known.id === chosen)
  const kind = catalogue.data?.sources.find((known) => known.name === layer?.source.kind)
  for (const setting of kind?.settings ?? []) {
    if (!layer || setting.type !== 'point') continue
    const value = valueIn(layer.source, setting)
    const sitsOnPoint = isMove(value) && value.moves === 'follow' && !value.offset
    const at = placeAt(recipe, value, frame, layer.first)
    if (!at || sitsOnPoint) continue
    const moved = (all: Recipe, by: XY) => {
      const source = all.layers.find((known) => known.id === layer.id)?.source
      const before: Value = source ? valueIn(source, setting) : value
      return changeNode(all, { layer: layer.id }, { [setting.name]: shifted(before, by) })
    }
    handles.push({ id: `setting ${setting.name}`, label: spoken(setting.name), at, moved })
  }
  const { width: canvasWidth, height: canvasHeight } = recipe.canvas
  return handles.map((handle) => (
    <HandleDot
      key={handle.id}
      id={handle.id}
      name={`Point ${handle.label}`}
      label={handle.label}
      onMove={handle.moved}
      left={(handle.at[0] / canvasWidth) * width}
      top={(handle.at[1] / canvasHeight) * height}
      pxOfCanvas={canvasWidth / width}
    />
  ))
}
