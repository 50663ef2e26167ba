/** Where everything on the picture is at the current frame, as the engine works it out. */
import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { places as placesQuery } from '../../recipe/asking'
import { RESULT } from '../../recipe/edits'
import type { Places } from '../../recipe/handles'
import { useBenchParts } from '../editing/store'
import { useResting } from './useResting'

export function usePlaces(): Places | undefined {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing, dragging } = useBenchParts(
    'frame',
    'chosen',
    'playing',
    'dragging',
  )
  const resting = useResting(recipe)
  const isLayer = resting?.layers.some((layer) => layer.id === chosen)
  const found = useQuery({
    ...placesQuery(resting as NonNullable<typeof resting>, frame, isLayer ? chosen : undefined),
    enabled: recipe !== undefined && !playing && !dragging && (isLayer || chosen === RESULT),
  })
  return found.data as Places | undefined
}
