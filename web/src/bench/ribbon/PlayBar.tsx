import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { timecodes as timecodesQuery } from '../../api/queries'
import { useDocument } from '../../document/document'
import { shownIn, zoomed } from '../../recipe/frames'
import type { Canvas } from '../../recipe/types'
import { useBenchParts } from '../editing/store'
import { usePictures } from '../looking/pictures'
import { FrameNumber } from './FrameNumber'
import { LoopField } from './LoopField'
import { MarkButton } from './Markers'

const SOME = 500
const CLOSER = 0.5

/** Playing, which frame it is and when, how far frames are computed, and how much time is shown. */
export function PlayBar({ onPlay }: { onPlay(): void }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, playing, loop, late, range, shownFrames, set } = useBenchParts(
    'frame',
    'playing',
    'loop',
    'late',
    'range',
    'shownFrames',
    'set',
  )
  const ready = usePictures((store) => store.ready)
  if (!recipe) return null
  const { canvas } = recipe
  const { first, last } = canvas
  const length = last - first + 1
  const pill = 'h-6 min-w-6 rounded-full px-2 hover:bg-raised'
  const size = (times: number) => set({ shownFrames: zoomed(canvas, shownFrames, times, frame) })

  return (
    <div className="flex flex-wrap items-center gap-x-2.5 text-sm">
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
      <Timecode canvas={canvas} frame={frame} />
      <span className="text-quiet">{((frame - first) / canvas.rate).toFixed(2)} s</span>
      <span className="text-faint" data-testid="computed">
        {ready.size} of {length} computed
      </span>
      {late > 0 && (
        <span
          role="status"
          title="Frames that were shown later than they were due since play began"
          className="text-amber"
        >
          {late} {late === 1 ? 'frame' : 'frames'} late
        </span>
      )}
      <div className="ml-auto flex items-center text-quiet">
        {range && (
          <button type="button" onClick={() => set({ range: undefined })} className={pill}>
            Play all
          </button>
        )}
        <MarkButton />
        <button
          type="button"
          aria-label="Show more time"
          disabled={!shownFrames}
          onClick={() => size(1 / CLOSER)}
          className={`${pill} disabled:opacity-40`}
        >
          −
        </button>
        <span className="text-xs">{shownIn(canvas, shownFrames).length} shown</span>
        <button
          type="button"
          aria-label="Show less time"
          onClick={() => size(CLOSER)}
          className={pill}
        >
          +
        </button>
        <LoopField />
        <button
          type="button"
          aria-pressed={loop}
          title="Play round and round"
          onClick={() => set({ loop: !loop })}
          className={`${pill} ${loop ? 'text-accent' : ''}`}
        >
          Loop
        </button>
      </div>
    </div>
  )
}

/** The frame's timecode, told by the server for some frames at a time. */
function Timecode({ canvas, frame }: { canvas: Canvas; frame: number }) {
  const begins = Math.floor(frame / SOME) * SOME
  const codes = useQuery({
    ...timecodesQuery(begins, SOME, canvas.rate, canvas.drop_frame ?? false),
    placeholderData: keepPreviousData,
  })
  return (
    <span title="Timecode of the frame's number" className="text-quiet">
      {codes.data?.[frame - begins]}
    </span>
  )
}
