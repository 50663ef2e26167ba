import { useQuery } from '@tanstack/react-query'
import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { curveThrough } from '../../recipe/asking'
import { numberText } from '../../ui/numbers'
import { numberIn, type PictureProps } from './pieces'

const SAMPLES = 65
const HUNDRED = 100

/** A curve through points from what a level was, across, to what it becomes, upwards; with as much room below
 * nothing as above it where that may be less. */
export function CurvePicture(props: PictureProps & { isSmall?: boolean }) {
  const { pieces, along, up, chosen, label, isSmall, onChoose, onChange, onAdd, onSettle } = props
  const box = useRef<SVGSVGElement>(null)
  const places = pieces.map((piece): [number, number] => [
    numberIn(piece, along),
    up ? numberIn(piece, up) : 0,
  ])
  const most = Math.max(HUNDRED, ...places.flat())
  const at = Array.from({ length: SAMPLES }, (_, i) => (i * most) / (SAMPLES - 1))
  const levels = useQuery(curveThrough(places, at)).data
  const low = up?.least != null && up.least < 0 ? -most : 0
  const high = most - low
  const line = levels?.map((level, i) => `${at[i]},${most - level}`).join(' ')
  const curve = (
    <polyline
      points={line}
      className="fill-none stroke-accent"
      strokeWidth={isSmall ? 2 : 1.5}
      vectorEffect="non-scaling-stroke"
    />
  )
  if (isSmall) {
    return (
      <svg
        aria-hidden="true"
        viewBox={`0 0 ${most} ${high}`}
        preserveAspectRatio="none"
        className="block h-full w-full"
      >
        {curve}
      </svg>
    )
  }

  const held = (value: number, least = 0) => Math.round(Math.min(most, Math.max(least, value)))
  function placeOf(event: PointerEvent): [number, number] {
    const area = box.current?.getBoundingClientRect()
    if (!area) return [0, 0]
    const x = ((event.clientX - area.left) / area.width) * most
    const y = most - ((event.clientY - area.top) / area.height) * high
    return [held(x), held(y, low)]
  }
  function move(i: number, [x, y]: [number, number], gesture?: string) {
    const piece = pieces[i]
    if (!piece || !up) return
    onChange(pieces.with(i, { ...piece, [along.name]: held(x), [up.name]: held(y, low) }), gesture)
  }
  function press(event: KeyboardEvent, i: number) {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    }
    const way = ways[event.key]
    const [x, y] = places[i] ?? [0, 0]
    if (way) {
      event.preventDefault()
      const by = event.shiftKey ? 10 : 1
      move(i, [x + way[0] * by, y + way[1] * by])
    } else if (event.key === 'Delete' && pieces.length > 1) {
      event.preventDefault()
      onChange(pieces.filter((_, k) => k !== i))
    }
  }

  return (
    <div className="relative mx-auto size-56">
      <svg
        ref={box}
        viewBox={`0 0 ${most} ${high}`}
        preserveAspectRatio="none"
        aria-label={`Curve of ${label}`}
        onPointerDown={(event) => {
          const [x, y] = placeOf(event)
          if (up) onAdd({ [along.name]: x, [up.name]: y })
        }}
        className="absolute inset-0 h-full w-full cursor-copy rounded-lg bg-ground"
      >
        <path
          d={`${low ? '' : `M0 ${most}L${most} 0`}M${most / 2} 0V${high}M0 ${high / 2}H${most}`}
          className="stroke-line"
          vectorEffect="non-scaling-stroke"
        />
        {curve}
      </svg>
      {places.map(([x, y], i) => (
        <button
          // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place in the list
          key={i}
          type="button"
          data-arrows
          aria-pressed={i === chosen}
          aria-label={`Point of ${label}: ${numberText(x)} to ${numberText(y)} ${along.unit}`}
          onFocus={() => onChoose(i)}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId)
            onChoose(i)
          }}
          onPointerMove={(event) => event.buttons === 1 && move(i, placeOf(event), `point ${i}`)}
          onPointerUp={onSettle}
          onKeyDown={(event) => press(event, i)}
          className={`absolute size-3.5 -translate-x-1/2 -translate-y-1/2 touch-none rounded-full border-2 bg-ground ${i === chosen ? 'border-accent' : 'border-quiet'}`}
          style={{ left: `${(100 * x) / most}%`, top: `${(100 * (most - y)) / high}%` }}
        />
      ))}
    </div>
  )
}
