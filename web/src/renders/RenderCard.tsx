import type { Schemas } from '../api/client'
import { isUnderWay } from '../api/queries'
import { Button } from '../ui/Button'
import { bytesText, numberText } from '../ui/numbers'

interface Props {
  render: Schemas['RenderLine']
  isChosen: boolean
  onChoose(): void
  onCancel(): void
  onRetry(): void
}

const STATES: Record<string, string> = {
  queued: 'Waiting for a worker',
  running: 'Rendering',
  done: 'Done',
  failed: 'Failed',
  cancelled: 'Cancelled',
}

const TONES: Record<string, string> = { failed: 'text-coral', done: 'text-accent' }

export function RenderCard({ render, isChosen, onChoose, onCancel, onRetry }: Props) {
  const count = render.last - render.first + 1
  const { written, size, seconds } = render
  const tone = TONES[render.state] ?? 'text-quiet'

  return (
    <li
      aria-label={`Render of ${render.name}`}
      className={`rounded-xl bg-panel p-3.5 ${isChosen ? 'ring-2 ring-accent' : ''}`}
    >
      <button type="button" onClick={onChoose} className="block w-full text-left">
        <span className="flex items-baseline justify-between gap-3">
          <span className="truncate font-semibold">{render.name}</span>
          <span role="status" className={`text-sm ${tone}`}>
            {STATES[render.state]}
          </span>
        </span>
        <span className="block text-sm text-quiet">
          {render.first}–{render.last} · {render.format} · {numberText(render.scale * 100)} % ·{' '}
          revision {render.revision}
        </span>
        <FrameCells {...render} />
        <span className="block text-xs text-quiet">
          {written} of {count} frames
          {size > 0 && ` · ${bytesText(size)}`}
          {written > 0 && ` · ${(seconds / written).toFixed(2)} s a frame`}
        </span>
      </button>
      {render.reason && (
        <p role="alert" className="mt-1.5 text-sm break-words text-coral">
          {render.reason}
        </p>
      )}
      <div className="mt-2.5 flex gap-2">
        {written > 0 && (
          <a
            href={`/api/v1/renders/${render.id}/frames.zip`}
            download
            className="inline-flex h-7 items-center rounded-full border border-line px-3 text-sm hover:bg-raised"
          >
            Download
          </a>
        )}
        {isUnderWay(render) && (
          <Button look="loss" onClick={onCancel}>
            Cancel
          </Button>
        )}
        {(render.state === 'failed' || render.state === 'cancelled') && (
          <Button onClick={onRetry}>Try again</Button>
        )}
      </div>
    </li>
  )
}

const MOST_CELLS = 100

/** Progress frame by frame; a long render shows several frames in one cell. */
function FrameCells({ first, last, written, runs }: Schemas['RenderLine']) {
  const count = last - first + 1
  const cells = Math.min(MOST_CELLS, count)
  const shares = Array.from({ length: cells }, (_, i) => {
    const from = first + Math.floor((i * count) / cells)
    const to = first + Math.floor(((i + 1) * count) / cells)
    const done = runs.reduce(
      (sum, run) => sum + Math.max(0, Math.min(to, run.last + 1) - Math.max(from, run.first)),
      0,
    )
    return { from, share: done / (to - from) }
  })
  return (
    <span
      role="progressbar"
      aria-label="Frames written"
      aria-valuenow={written}
      aria-valuemax={count}
      className="my-2 flex h-2 gap-px"
    >
      {shares.map(({ from, share }) => (
        <span key={from} className="grow rounded-[1px] bg-raised">
          <span className="block h-full rounded-[1px] bg-accent" style={{ opacity: share }} />
        </span>
      ))}
    </span>
  )
}
