import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useDocumentParts } from '../../document/document'
import { px as pxQuery } from '../../recipe/asking'
import type { XY } from '../../recipe/types'
import { numberText } from '../../ui/numbers'
import { useBenchParts } from '../editing/store'
import { usePictures } from '../looking/pictures'

const REST_MS = 120

/** What the picture holds under the pointer: linear light, cover, and stops from white. */
export function PxValues({ over }: { over: XY | undefined }) {
  const { recipe, shotId } = useDocumentParts('recipe', 'shotId')
  const scale = usePictures((store) => store.scale)
  const { frame, playing, dragging } = useBenchParts('frame', 'playing', 'dragging')
  const [at, setAt] = useState(over)
  useEffect(() => {
    const timer = window.setTimeout(() => setAt(over), REST_MS)
    return () => window.clearTimeout(timer)
  }, [over])
  const found = useQuery({
    ...pxQuery(recipe as NonNullable<typeof recipe>, shotId ?? '', frame, scale, at ?? [0, 0]),
    enabled: recipe !== undefined && at !== undefined && !playing && !dragging,
  })
  const values = at && found.data
  return (
    <output aria-label="Under the pointer" className="text-xs text-quiet">
      {values && (
        <>
          {at[0]}, {at[1]} px · light {values.light.map(exact).join(' ')} · cover{' '}
          {exact(values.cover)} ·{' '}
          {values.stops === null ? 'black' : `${numberText(values.stops)} stops from white`}
        </>
      )}
    </output>
  )
}

/** Two figures, however small: what is nearly nothing is not nothing. */
function exact(value: number): string {
  return String(Number(value.toPrecision(2)))
}
