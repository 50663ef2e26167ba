import { useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
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
  const { frames } = render
  const at = Math.min(frames.length - 1, index ?? Math.floor(frames.length / 6))
  const frame = frames[at]
  if (!frame) {
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
        src={`/api/v1/renders/${render.id}/${frame.frame}.jpg?background=${background}&channel=${channel}`}
        alt={`Rendered frame ${frame.frame}`}
        className="w-full rounded-md bg-black"
      />
      <Slider
        label="Rendered frame"
        value={at}
        least={0}
        most={Math.max(1, frames.length - 1)}
        step={1}
        onChange={(next) => setIndex(Math.min(frames.length - 1, next))}
        onSettle={() => undefined}
      />
      <p className="text-sm text-quiet">
        {frame.file} · {bytesText(frame.size)} ·{' '}
        <a
          href={`/api/v1/renders/${render.id}/${frame.frame}.file`}
          download
          className="underline hover:text-text"
        >
          Download this frame
        </a>
      </p>
    </section>
  )
}
