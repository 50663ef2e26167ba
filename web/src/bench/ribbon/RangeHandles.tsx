import { type KeyboardEvent, type PointerEvent, type RefObject, useRef } from 'react'
import { useDocument } from '../../document/document'
import type { Shown } from '../../recipe/frames'
import { useBenchParts } from '../editing/store'

interface Props {
  shown: Shown
  /** What is as wide as the frames that are shown. */
  track: RefObject<HTMLDivElement | null>
}

/** The ends of what plays, dragged or walked with the arrow keys along the computed frames. */
export function RangeHandles({ shown, track }: Props) {
  const canvas = useDocument((store) => store.recipe?.canvas)
  const { range, set } = useBenchParts('range', 'set')
  const drag = useRef<{ x: number; from: number }>(undefined)
  if (!canvas) return null
  const [from, to] = range ?? [canvas.first, canvas.last]

  function put(end: 'first' | 'last', frame: number) {
    if (!canvas) return
    const next: [number, number] =
      end === 'first'
        ? [Math.max(canvas.first, Math.min(frame, to)), to]
        : [from, Math.min(canvas.last, Math.max(frame, from))]
    const isAll = next[0] === canvas.first && next[1] === canvas.last
    set({ range: isAll ? undefined : next })
  }
  function pull(event: PointerEvent, end: 'first' | 'last') {
    if (!drag.current || !track.current) return
    const frames = ((event.clientX - drag.current.x) * shown.length) / track.current.clientWidth
    put(end, Math.round(drag.current.from + frames))
  }
  function walk(event: KeyboardEvent, end: 'first' | 'last', frame: number) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (!by || event.altKey) return
    event.preventDefault()
    put(end, frame + by * (event.shiftKey ? 10 : 1))
  }

  return (['first', 'last'] as const).map((end) => {
    const frame = end === 'first' ? from : to
    const left = shown.percent(end === 'first' ? frame : frame + 1)
    if (left < 0 || left > 100) return null
    return (
      <button
        key={end}
        type="button"
        data-arrows
        aria-label={`Plays ${end === 'first' ? 'from' : 'to'} frame ${frame}`}
        title={`Plays ${end === 'first' ? 'from' : 'to'} frame ${frame}`}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          drag.current = { x: event.clientX, from: frame }
        }}
        onPointerMove={(event) => pull(event, end)}
        onPointerUp={() => {
          drag.current = undefined
        }}
        onKeyDown={(event) => walk(event, end, frame)}
        className="group absolute top-[13px] z-10 h-3.5 w-3 -translate-x-1/2 touch-none"
        style={{ left: `${left}%` }}
      >
        <span
          className={`mx-auto block h-full w-1 rounded-full group-hover:bg-accent ${range ? 'bg-accent' : 'bg-faint'}`}
        />
      </button>
    )
  })
}
