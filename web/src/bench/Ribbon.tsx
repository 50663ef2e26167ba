import { type PointerEvent, useRef } from 'react'
import { useDocument } from '../recipe/document'
import { envelope } from '../recipe/life'
import type { Layer } from '../recipe/types'
import { FrameNumber } from './FrameNumber'
import { Lanes } from './Lanes'
import { LifeHandles } from './LifeHandles'
import { usePictures } from './pictures'
import { useBench } from './store'

const MARKS = 5

/** Time: play, the frame, which frames are computed, and when the chosen layer shows. */
export function Ribbon({ onPlay }: { onPlay(): void }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, playing, loop, chosen, set } = useBench()
  const ready = usePictures((store) => store.ready)
  const track = useRef<HTMLDivElement>(null)
  if (!recipe) return null
  const { first, last, rate } = recipe.canvas
  const length = last - first + 1
  const layer = recipe.layers.find((known) => known.id === chosen)
  const percent = (at: number) => `${(100 * (at - first)) / length}%`

  function scrub(event: PointerEvent<HTMLDivElement>) {
    if (event.buttons !== 1 || !track.current) return
    event.currentTarget.setPointerCapture(event.pointerId)
    const box = track.current.getBoundingClientRect()
    const at = first + Math.floor(((event.clientX - box.left) / box.width) * length)
    set({ frame: Math.min(last, Math.max(first, at)), playing: false })
  }

  return (
    <section aria-label="Time" className="mt-2 shrink-0">
      <div className="flex items-center gap-3 text-sm">
        <button
          type="button"
          aria-label={playing ? 'Stop' : 'Play'}
          onClick={onPlay}
          className="grid size-7 place-items-center rounded-full hover:bg-raised"
        >
          <svg viewBox="0 0 12 12" className="size-3.5 fill-text" aria-hidden="true">
            {playing ? <path d="M2 1h3v10H2zM7 1h3v10H7z" /> : <path d="M2 .5v11l9-5.5z" />}
          </svg>
        </button>
        <FrameNumber
          value={frame}
          onChange={(at) => set({ frame: Math.min(last, Math.max(first, at)) })}
        />
        <span className="text-quiet">{((frame - first) / rate).toFixed(2)} s</span>
        <span className="text-faint" data-testid="computed">
          {ready.size} of {length} computed
        </span>
        <button
          type="button"
          aria-pressed={loop}
          onClick={() => set({ loop: !loop })}
          className={`ml-auto rounded-full px-2 py-0.5 hover:bg-raised ${loop ? 'text-accent' : 'text-quiet'}`}
        >
          Loop
        </button>
      </div>
      <div className="relative">
        <div
          ref={track}
          role="slider"
          tabIndex={0}
          aria-label="Frame"
          aria-valuemin={first}
          aria-valuemax={last}
          aria-valuenow={frame}
          onPointerDown={scrub}
          onPointerMove={scrub}
          className="relative mt-1 h-16 touch-none rounded-md select-none"
        >
          {Array.from({ length: MARKS }, (_, i) =>
            Math.round(first + (i * (length - 1)) / (MARKS - 1)),
          ).map((at, i) => (
            <span
              key={at}
              className={`absolute top-0 text-xs text-faint ${i === MARKS - 1 ? '-translate-x-full' : ''}`}
              style={{ left: i === MARKS - 1 ? '100%' : percent(at) }}
            >
              {at}
            </span>
          ))}
          <div className="absolute inset-x-0 top-[18px] h-[3px] bg-raised">
            {runsOf(ready, first, last).map(([from, to]) => (
              <span
                key={from}
                className="absolute h-full bg-accent/60"
                style={{ left: percent(from), width: `${(100 * (to - from + 1)) / length}%` }}
              />
            ))}
          </div>
          {layer && (
            <Span layer={layer} first={first} last={last}>
              {layer.name}
            </Span>
          )}
          <span
            aria-hidden
            className="pointer-events-none absolute top-3 bottom-0 w-0.5 -translate-x-1/2 bg-text"
            style={{ left: `${(100 * (frame - first + 0.5)) / length}%` }}
          />
        </div>
        {layer && <LifeHandles layer={layer} first={first} last={last} track={track} />}
      </div>
      {layer && <Lanes layer={layer} />}
    </section>
  )
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
  first: number
  last: number
  children: string
}

/** When a layer shows, and the envelope of its life. */
function Span({ layer, first, last, children }: SpanProps) {
  const length = last - first + 1
  const from = Math.max(first, layer.first ?? first)
  const to = Math.min(last, layer.last ?? last)
  const corners = envelope(layer, from, to)
  const shape = corners.map(([at, level]) => `${at - from},${1 - level}`).join(' ')
  return (
    <div
      className="absolute top-[27px] h-9 overflow-hidden rounded bg-raised"
      style={{
        left: `${(100 * (from - first)) / length}%`,
        width: `${(100 * (to - from + 1)) / length}%`,
      }}
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
        {children}
      </span>
    </div>
  )
}
