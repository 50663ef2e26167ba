import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { frame as frameQuery } from '../api/queries'
import { bytesText } from '../ui/numbers'
import { Segments } from '../ui/Segments'
import { Slider } from '../ui/Slider'
import { Empty } from '../ui/States'

type Channel = 'picture' | 'cover' | 'light'
type Background = 'black' | 'grey' | 'check'

/** A render's written frames, read back from their files. */
export function RenderResult({ render }: { render: Schemas['RenderLine'] }) {
  const [index, setIndex] = useState<number>()
  const [channel, setChannel] = useState<Channel>('picture')
  const [background, setBackground] = useState<Background>('black')
  const at = Math.min(render.written - 1, index ?? Math.floor(render.written / 6))
  const number = writtenFrame(render.runs, at)
  const line = useQuery({ ...frameQuery(render.id, number ?? 0), enabled: number !== undefined })
  if (number === undefined) {
    return (
      <Empty title="Nothing to look at yet">
        <p>The first frame appears here as soon as it is written.</p>
      </Empty>
    )
  }
  return (
    <section aria-label="Result" className="flex min-w-0 flex-col gap-3 overflow-y-auto p-4">
      <div className="flex items-center gap-2">
        <Segments<Background>
          label="Background"
          value={background}
          options={[
            { value: 'black', label: 'Black' },
            { value: 'grey', label: 'Grey' },
            { value: 'check', label: 'Check' },
          ]}
          onChange={setBackground}
        />
        <Segments<Channel>
          label="Channel"
          value={channel}
          options={[
            { value: 'picture', label: 'Picture' },
            { value: 'cover', label: 'Cover' },
            { value: 'light', label: 'Light' },
          ]}
          onChange={setChannel}
        />
        <Link to={`/shots/${render.shot}`} className="ml-auto text-sm text-quiet hover:text-text">
          Open the shot
        </Link>
      </div>
      <img
        src={`/api/v1/renders/${render.id}/${number}.jpg?background=${background}&channel=${channel}`}
        alt={`Rendered frame ${number}`}
        className="w-full rounded-md bg-black"
      />
      <Slider
        label="Rendered frame"
        value={at}
        least={0}
        most={Math.max(1, render.written - 1)}
        step={1}
        onChange={(next) => setIndex(Math.min(render.written - 1, next))}
        onSettle={() => undefined}
      />
      <p className="text-sm text-quiet">
        {line.data && `${line.data.file} · ${bytesText(line.data.size)} · `}
        <a
          href={`/api/v1/renders/${render.id}/${number}.file`}
          download
          className="underline hover:text-text"
        >
          Download this frame
        </a>
      </p>
    </section>
  )
}

/** The number of a written frame by its place among them. */
function writtenFrame(runs: Schemas['Run'][], place: number): number | undefined {
  let left = place
  for (const { first, last } of runs) {
    if (left >= 0 && left <= last - first) return first + left
    left -= last - first + 1
  }
  return undefined
}
