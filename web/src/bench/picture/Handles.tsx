import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { RESULT } from '../../recipe/edits'
import { type Handle, handlesOf, type Outline } from '../../recipe/handles'
import type { XY } from '../../recipe/types'
import { remove } from '../editing/named'
import { useBenchParts } from '../editing/store'
import { usePlaces } from '../looking/usePlaces'
import { HandleDot } from './HandleDot'

const KEYED = 'Sets a key on this frame; with Alt the whole motion moves'
const REMOVED = 'Delete removes it; what follows it stays here'

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
  const lower = apart(handles, scale)
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
      {handles.map((handle, i) => (
        <HandleDot
          key={handle.id}
          id={handle.id}
          name={handle.isSize ? `Handle of ${handle.label}` : `Point ${handle.label}`}
          label={handle.label}
          says={[handle.isKeyed && KEYED, handle.point && REMOVED].filter(Boolean).join('. ')}
          isSmall={handle.isSize}
          at={handle.at}
          scale={scale}
          lower={lower[i] ?? 0}
          snaps={snaps(handle)}
          onMove={handle.moved}
          onKeyDown={({ key }) => {
            if (key === 'Delete' && handle.point) remove('points', handle.point, handle.at)
          }}
        />
      ))}
    </>
  )
}

const LABEL_PX = 96
const LINE_PX = 22

/** By how many px the label of each stands lower, so that none lies on another one. */
function apart(handles: Handle[], scale: number): number[] {
  const taken: XY[] = []
  return handles.map(({ at: [x, y], isSize }) => {
    if (isSize) return 0
    const place: XY = [x * scale, y * scale]
    const isTaken = (lower: number) =>
      taken.some(
        ([u, v]) => Math.abs(u - place[0]) < LABEL_PX && Math.abs(v - place[1] - lower) < LINE_PX,
      )
    let lower = 0
    while (isTaken(lower)) lower += LINE_PX
    taken.push([place[0], place[1] + lower])
    return lower
  })
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
