/** Where everything on the picture is at the current frame, as the engine works it out. */
import { useQuery } from '@tanstack/react-query'
import { places as placesQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { RESULT } from '../recipe/edits'
import type { Places } from '../recipe/handles'
import { useBench } from './store'

export function usePlaces(): Places | undefined {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing } = useBench()
  const isLayer = recipe?.layers.some((layer) => layer.id === chosen)
  const found = useQuery({
    ...placesQuery(recipe as NonNullable<typeof recipe>, frame, isLayer ? chosen : undefined),
    enabled: recipe !== undefined && !playing && (isLayer || chosen === RESULT),
  })
  return found.data as Places | undefined
}
