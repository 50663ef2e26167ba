import { type PointerEvent, type RefObject, useState, type WheelEvent } from 'react'
import { useDocument } from '../recipe/document'
import type { XY } from '../recipe/types'
import { withUnit } from '../recipe/wording'
import { Segments } from '../ui/Segments'
import { BitmapCanvas } from './BitmapCanvas'
import { KeepButton, KeptPicture } from './Compare'
import { Handles } from './Handles'
import { MaskDrawing, PathHandles } from './PathHandles'
import { PxValues } from './PxValues'
import { type Background, type Channel, usePictures } from './pictures'
import { useBench } from './store'
import { Zoom } from './Zoom'

const CHANNELS: { value: Channel; label: string }[] = [
  { value: 'picture', label: 'Picture' },
  { value: 'cover', label: 'Cover' },
  { value: 'light', label: 'Light' },
  { value: 'red', label: 'Red' },
  { value: 'green', label: 'Green' },
  { value: 'blue', label: 'Blue' },
]

interface Props {
  areaRef: RefObject<HTMLDivElement | null>
  size: { width: number; height: number }
  hasPlate: boolean
}

/** The result, with the recipe's points on it. */
export function Picture({ areaRef, size, hasPlate }: Props) {
  const { view, zoom, set } = useBench()
  const [over, setOver] = useState<XY>()
  const recipe = useDocument((store) => store.recipe)
  const { result, problem } = usePictures()
  if (!recipe) return null
  const { width, height } = recipe.canvas

  /** Ctrl and the wheel, or two fingers, size the picture about the pointer. */
  function wheel(event: WheelEvent) {
    if (!event.ctrlKey && !event.metaKey) return
    const now = size.width / width
    set({ zoom: Math.min(8, Math.max(0.1, now * 2 ** (-event.deltaY / 300))) })
  }
  function pan(event: PointerEvent<HTMLElement>) {
    if (event.buttons === 0 || !zoom) return
    event.currentTarget.scrollBy(-event.movementX, -event.movementY)
  }
  function point(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    const x = Math.floor(((event.clientX - box.left) / box.width) * width)
    const y = Math.floor(((event.clientY - box.top) / box.height) * height)
    setOver([Math.min(width - 1, Math.max(0, x)), Math.min(height - 1, Math.max(0, y))])
  }

  const backgrounds: { value: Background; label: string; disabled?: boolean }[] = [
    { value: 'black', label: 'Black' },
    { value: 'grey', label: 'Grey' },
    { value: 'check', label: 'Check' },
    { value: 'plate', label: 'Plate', disabled: !hasPlate },
  ]
  return (
    <>
      <div className="mb-1.5 flex items-center gap-2">
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
        <div className="ml-auto flex items-center gap-1 text-xs text-quiet">
          <button
            type="button"
            aria-label="Darker by half a stop"
            onClick={() => set({ view: { ...view, exposure: view.exposure - 0.5 } })}
            className="size-6 rounded-full hover:bg-raised"
          >
            −
          </button>
          <button
            type="button"
            title="Back to the true exposure"
            onClick={() => set({ view: { ...view, exposure: 0 } })}
            className={`w-20 rounded-full py-1 hover:bg-raised ${view.exposure ? 'text-amber' : ''}`}
          >
            {view.exposure ? withUnit(view.exposure, 'stops') : '± 0 stops'}
          </button>
          <button
            type="button"
            aria-label="Brighter by half a stop"
            onClick={() => set({ view: { ...view, exposure: view.exposure + 0.5 } })}
            className="size-6 rounded-full hover:bg-raised"
          >
            +
          </button>
          <Zoom now={size.width / recipe.canvas.width} />
        </div>
      </div>
      <div
        ref={areaRef}
        onWheel={wheel}
        onPointerMove={pan}
        className={`relative min-h-0 grow ${zoom ? 'cursor-grab overflow-auto' : ''}`}
      >
        <div
          className="relative mx-auto"
          style={{ width: size.width, height: size.height }}
          onPointerMove={point}
          onPointerLeave={() => setOver(undefined)}
        >
          <BitmapCanvas
            bitmap={result}
            label={`Frame of ${recipe.name}`}
            className="h-full w-full rounded-md bg-black"
          />
          <KeptPicture />
          {size.width > 0 && (
            <>
              <PathHandles width={size.width} height={size.height} />
              <Handles width={size.width} height={size.height} />
              <MaskDrawing width={size.width} height={size.height} />
            </>
          )}
          {problem && (
            <div
              role="alert"
              className="absolute inset-x-6 bottom-4 rounded-xl bg-raised/95 px-4 py-2.5 text-sm"
            >
              <p className="text-coral">{problem.says}</p>
              {problem.problems.slice(0, 4).map((line) => (
                <p key={line.path + line.says} className="text-quiet">
                  {line.path}: {line.says}
                </p>
              ))}
            </div>
          )}
        </div>
      </div>
      <div className="mt-1 flex h-7 shrink-0 items-center justify-between">
        <PxValues over={over} />
        <KeepButton />
      </div>
    </>
  )
}
