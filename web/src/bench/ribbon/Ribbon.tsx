import { type PointerEvent, useEffect, useRef, type WheelEvent } from 'react'
import { useDocument } from '../../document/document'
import { holding, panned, type Shown, shownIn, zoomed } from '../../recipe/frames'
import { envelope } from '../../recipe/life'
import type { Canvas, Layer } from '../../recipe/types'
import { useBenchParts } from '../editing/store'
import { usePictures } from '../looking/pictures'
import { Lanes } from './Lanes'
import { LifeHandles } from './LifeHandles'
import { Markers } from './Markers'
import { PlayBar } from './PlayBar'
import { RangeHandles } from './RangeHandles'

const MARKS = 5
const CLOSER = 1 / 1.25
/** Height of the lines of all layers together. */
const SPANS_PX = 26

/** Time: play, the frame, which frames are computed, and when the chosen layer shows. */
export function Ribbon({ onPlay }: { onPlay(): void }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, shownFrames, set } = useBenchParts('frame', 'chosen', 'shownFrames', 'set')
  const ready = usePictures((store) => store.ready)
  const remembered = usePictures((store) => store.remembered)
  const track = useRef<HTMLDivElement>(null)
  const canvas = recipe?.canvas

  useEffect(() => {
    if (!canvas || !shownFrames) return
    const next = holding(canvas, shownFrames, frame)
    if (next !== shownFrames) set({ shownFrames: next })
  }, [canvas, shownFrames, frame, set])

  if (!recipe || !canvas) return null
  const shown = shownIn(canvas, shownFrames)
  const { first, last, length, percent } = shown
  const layer = recipe.layers.find((known) => known.id === chosen)
  const loop = recipe.loop ?? 0

  function frameAt(x: number): number {
    const box = track.current?.getBoundingClientRect()
    if (!box) return frame
    const at = first + Math.floor(((x - box.left) / box.width) * length)
    return Math.min(last, Math.max(first, at))
  }
  function scrub(event: PointerEvent<HTMLDivElement>) {
    if (event.buttons !== 1) return
    event.currentTarget.setPointerCapture(event.pointerId)
    set({ frame: frameAt(event.clientX), playing: false })
  }
  /** Ctrl and the wheel show more time or less, about the pointer; sideways it moves on. */
  function wheel(event: WheelEvent) {
    if (!canvas) return
    if (event.ctrlKey || event.metaKey) {
      const times = event.deltaY < 0 ? CLOSER : 1 / CLOSER
      set({ shownFrames: zoomed(canvas, shownFrames, times, frameAt(event.clientX)) })
    } else if (shownFrames) {
      const way = event.deltaX || (event.shiftKey ? event.deltaY : 0)
      const by = Math.sign(way) * Math.max(1, Math.round(length / 20))
      if (way) set({ shownFrames: panned(canvas, shownFrames, by) })
    }
  }

  return (
    <section
      aria-label="Time"
      className="mt-1 shrink-0 overscroll-contain px-4 wide:px-0"
      onWheel={wheel}
    >
      <PlayBar onPlay={onPlay} />
      <div className="relative mr-7">
        <div
          ref={track}
          role="slider"
          tabIndex={0}
          aria-label="Frame"
          aria-valuemin={canvas.first}
          aria-valuemax={canvas.last}
          aria-valuenow={frame}
          onPointerDown={scrub}
          onPointerMove={scrub}
          className="relative mt-1 h-16 touch-none overflow-hidden rounded-md select-none"
        >
          {marksIn(shown).map((at, i) => (
            <span
              key={at}
              className={`absolute top-0 text-xs text-faint ${i === MARKS - 1 ? '-translate-x-full' : ''}`}
              style={{ left: i === MARKS - 1 ? '100%' : `${percent(at)}%` }}
            >
              {at}
            </span>
          ))}
          <div className="absolute inset-x-0 top-[18px] h-[3px] bg-raised">
            <Runs of={ready} shown={shown} mark="bg-accent/60" />
          </div>
          {remembered && (
            <div
              role="img"
              aria-label={simulated(remembered, canvas)}
              title={simulated(remembered, canvas)}
              className="absolute inset-x-0 top-[22px] h-[2px] bg-raised/60"
            >
              <Runs of={remembered} shown={shown} mark="bg-quiet/70" />
            </div>
          )}
          {loop > 0 && (
            <span
              title={`Over these ${loop} frames the end turns into the beginning`}
              className="absolute top-[23px] h-[3px] bg-linear-to-r from-transparent to-accent"
              style={{
                left: `${percent(canvas.last + 1 - loop)}%`,
                width: `${percent(canvas.last + 1) - percent(canvas.last + 1 - loop)}%`,
              }}
            />
          )}
          {layer && <Span layer={layer} shown={shown} canvasEnds={[canvas.first, canvas.last]} />}
          <span
            aria-hidden
            className="pointer-events-none absolute top-3 bottom-0 w-0.5 -translate-x-1/2 bg-text"
            style={{ left: `${percent(frame + 0.5)}%` }}
          />
        </div>
        <RangeHandles shown={shown} track={track} />
        <Markers shown={shown} />
        {layer && <LifeHandles layer={layer} shown={shown} track={track} />}
      </div>
      <Spans layers={recipe.layers} chosen={chosen} shown={shown} />
      <Lanes of={layer?.name ?? 'the result'} shown={shown} />
    </section>
  )
}

function simulated(frames: ReadonlySet<number>, { first, last }: Canvas): string {
  const within = [...frames].filter((frame) => frame >= first && frame <= last)
  return `Simulated: ${within.length} of ${last - first + 1} frames`
}

/** Marks of some frames, on a line. */
function Runs({ of, shown, mark }: { of: ReadonlySet<number>; shown: Shown; mark: string }) {
  return runsOf(of, shown.first, shown.last).map(([from, to]) => (
    <span
      key={from}
      className={`absolute h-full ${mark}`}
      style={{
        left: `${shown.percent(from)}%`,
        width: `${shown.percent(to + 1) - shown.percent(from)}%`,
      }}
    />
  ))
}

/** When each layer shows, one thin line for each, so that they can be timed against one another. */
function Spans({ layers, chosen, shown }: { layers: Layer[]; chosen?: string; shown: Shown }) {
  if (layers.length < 2) return null
  const high = Math.max(1, Math.min(3, Math.floor(SPANS_PX / layers.length) - 1))
  return (
    <div aria-hidden className="relative mt-1 mr-7 mb-0.5 grid gap-px overflow-hidden">
      {layers.map(({ id, name, on, first, last }) => {
        const left = first == null ? 0 : Math.max(0, shown.percent(first))
        const right = last == null ? 100 : Math.min(100, shown.percent(last + 1))
        return (
          <div key={id} title={name} style={{ height: high }}>
            <div
              className={`h-full rounded-full ${id === chosen ? 'bg-accent' : 'bg-faint'} ${on === false ? 'opacity-30' : ''}`}
              style={{ marginLeft: `${left}%`, width: `${Math.max(0, right - left)}%` }}
            />
          </div>
        )
      })}
    </div>
  )
}

/** A few frames spread evenly, to be read. */
function marksIn({ first, length }: Shown): number[] {
  const all = Array.from({ length: MARKS }, (_, i) =>
    Math.round(first + (i * (length - 1)) / (MARKS - 1)),
  )
  return [...new Set(all)]
}

/** Runs of numbers in a row, as pairs of first and last. */
function runsOf(numbers: ReadonlySet<number>, first: number, last: number): [number, number][] {
  const runs: [number, number][] = []
  for (let i = first; i <= last; i += 1) {
    if (!numbers.has(i)) continue
    const run = runs.at(-1)
    if (run && run[1] === i - 1) run[1] = i
    else runs.push([i, i])
  }
  return runs
}

interface SpanProps {
  layer: Layer
  shown: Shown
  canvasEnds: [number, number]
}

/** When a layer shows, and the envelope of its life. */
function Span({ layer, shown, canvasEnds: [first, last] }: SpanProps) {
  const from = Math.max(first, layer.first ?? first)
  const to = Math.min(last, layer.last ?? last)
  const corners = envelope(layer, from, to)
  const shape = corners.map(([at, level]) => `${at - from},${1 - level}`).join(' ')
  const left = shown.percent(from)
  return (
    <div
      className="absolute top-[27px] h-9 overflow-hidden rounded bg-raised"
      style={{ left: `${left}%`, width: `${shown.percent(to + 1) - left}%` }}
    >
      <svg
        aria-hidden="true"
        viewBox={`0 0 ${Math.max(1, to - from)} 1`}
        preserveAspectRatio="none"
        className="absolute inset-0 h-full w-full fill-accent-deep"
      >
        <polygon points={`0,1 ${shape} ${to - from},1`} />
      </svg>
      <span className="absolute bottom-1 left-2 text-xs whitespace-nowrap text-quiet">
        {layer.name}
      </span>
    </div>
  )
}
