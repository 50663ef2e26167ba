/** What moves in what is chosen, on every frame, as the engine works it out. */
import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import type { Schemas } from '../../api/client'
import { useDocument } from '../../document/document'
import { curves as curvesQuery } from '../../recipe/asking'
import { RESULT } from '../../recipe/edits'
import { sameWhere, type Where } from '../../recipe/where'
import { useBenchParts } from '../editing/store'
import { useResting } from './useResting'

export type Curve = Schemas['CurveLine']

const NONE: Curve[] = []

/** The curves of the chosen layer, or of the result; the last ones while newer are worked out. */
export function useCurves(): Curve[] {
  const recipe = useDocument((store) => store.recipe)
  const { chosen, dragging } = useBenchParts('chosen', 'dragging')
  const resting = useResting(recipe)
  const isThere = chosen === RESULT || resting?.layers.some((known) => known.id === chosen)
  const found = useQuery({
    ...curvesQuery(resting as NonNullable<typeof resting>, chosen === RESULT ? undefined : chosen),
    enabled: !dragging && resting !== undefined && isThere === true,
  })
  const last = useRef<{ of: string | undefined; curves: Curve[] }>(undefined)
  if (found.data && !found.isPlaceholderData) last.current = { of: chosen, curves: found.data }
  const known = last.current
  return known && known.of === chosen ? known.curves : NONE
}

/** The curve of one value, if it moves. */
export function useCurve(where: Where | undefined): Curve | undefined {
  const curves = useCurves()
  return where && curves.find((curve) => sameWhere(curve.where, where))
}
