import { withUnit } from '../../recipe/wording'
import { Segments } from '../../ui/Segments'
import { useBenchParts } from '../editing/store'
import type { Background, Channel } from '../editing/view'
import { Zoom } from './Zoom'

const CHANNELS: { value: Channel; label: string }[] = [
  { value: 'picture', label: 'Picture' },
  { value: 'cover', label: 'Cover' },
  { value: 'light', label: 'Light' },
  { value: 'offsets', label: 'Offsets' },
  { value: 'red', label: 'Red' },
  { value: 'green', label: 'Green' },
  { value: 'blue', label: 'Blue' },
]

/** How the picture is looked at; nothing here changes the element. */
export function ViewBar({ hasPlate, zoomNow }: { hasPlate: boolean; zoomNow: number }) {
  const { view, set } = useBenchParts('view', 'set')
  const expose = (exposure: number) => set({ view: { ...view, exposure } })
  const backgrounds: { value: Background; label: string; disabled?: boolean }[] = [
    { value: 'black', label: 'Black' },
    { value: 'grey', label: 'Grey' },
    { value: 'check', label: 'Check' },
    { value: 'plate', label: 'Plate', disabled: !hasPlate },
  ]
  return (
    <div className="my-1.5 flex shrink-0 flex-wrap items-center gap-x-1.5 gap-y-1 px-4 wide:mt-0 wide:px-0">
      <Segments
        label="Background"
        value={view.background}
        options={backgrounds}
        onChange={(background) => set({ view: { ...view, background } })}
      />
      <Segments
        label="Channel"
        value={view.channel}
        options={CHANNELS}
        onChange={(channel) => set({ view: { ...view, channel } })}
      />
      <div className="ml-auto flex items-center text-xs text-quiet">
        <button
          type="button"
          aria-label="Darker by half a stop"
          onClick={() => expose(view.exposure - 0.5)}
          className="size-6 rounded-full hover:bg-raised"
        >
          −
        </button>
        <button
          type="button"
          title="Back to the true exposure"
          onClick={() => expose(0)}
          className={`w-16 rounded-full py-1 whitespace-nowrap hover:bg-raised ${view.exposure ? 'text-amber' : ''}`}
        >
          {view.exposure ? withUnit(view.exposure, 'stops') : '± 0 stops'}
        </button>
        <button
          type="button"
          aria-label="Brighter by half a stop"
          onClick={() => expose(view.exposure + 0.5)}
          className="size-6 rounded-full hover:bg-raised"
        >
          +
        </button>
        <Zoom now={zoomNow} />
      </div>
    </div>
  )
}
