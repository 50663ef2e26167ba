import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { RESULT } from '../recipe/edits'
import { type Handle, handlesOf, type Outline } from '../recipe/handles'
import type { XY } from '../recipe/types'
import { HandleDot } from './HandleDot'
import { useBenchParts } from './store'
import { usePlaces } from './usePlaces'

const KEYED = 'Sets a key on this frame; with Alt the whole motion moves'

/** The recipe's points, and what the chosen card has on the picture, to be dragged. */
export function Handles({ scale }: { scale: number }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, card, playing } = useBenchParts('frame', 'chosen', 'card', 'playing')
  const catalogue = useQuery(catalogueQuery).data
  const places = usePlaces()
  if (!recipe || !catalogue || playing) return null
  const held = chosen ? { layer: chosen, card: cardOf(chosen, card) } : undefined
  const { handles, outlines } = handlesOf(recipe, catalogue, held, frame, places)
  const { width, height } = recipe.canvas
  const snaps = (of: Handle): XY[] =>
    of.isSize
      ? []
      : [
          ...handles.filter((other) => other !== of && !other.isSize).map((other) => other.at),
          [width / 2, height / 2],
        ]
  return (
    <>
      <svg
        aria-hidden="true"
        viewBox={`0 0 ${width} ${height}`}
        className="pointer-events-none absolute inset-0 h-full w-full overflow-visible fill-none stroke-accent"
      >
        {outlines.map((outline) => (
          <OutlineShape key={outline.id} outline={outline} />
        ))}
        {handles.map(
          ({ id, from, at }) =>
            from && (
              <path
                key={id}
                d={`M${from}L${at}`}
                vectorEffect="non-scaling-stroke"
                className="opacity-50"
              />
            ),
        )}
      </svg>
      {handles.map((handle) => (
        <HandleDot
          key={handle.id}
          id={handle.id}
          name={handle.isSize ? `Handle of ${handle.label}` : `Point ${handle.label}`}
          label={handle.label}
          says={handle.isKeyed ? KEYED : undefined}
          isSmall={handle.isSize}
          at={handle.at}
          scale={scale}
          snaps={snaps(handle)}
          onMove={handle.moved}
        />
      ))}
    </>
  )
}

/** A result has no source; its first card is that of its first step. */
function cardOf(chosen: string, card: string): string {
  return chosen === RESULT && card === 'source' ? '' : card
}

function OutlineShape({ outline }: { outline: Outline }) {
  const { shape, centre, width, height, turn } = outline
  const [x, y] = centre
  const shared = {
    transform: `rotate(${turn} ${x} ${y})`,
    vectorEffect: 'non-scaling-stroke',
    strokeWidth: 1.5,
  }
  return shape === 'ellipse' ? (
    <ellipse cx={x} cy={y} rx={width / 2} ry={height / 2} {...shared} />
  ) : (
    <rect x={x - width / 2} y={y - height / 2} width={width} height={height} {...shared} />
  )
}
