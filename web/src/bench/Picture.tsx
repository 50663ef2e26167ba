import type { RefObject } from 'react'
import { useDocument } from '../recipe/document'
import { withUnit } from '../recipe/wording'
import { numberText } from '../ui/numbers'
import { Segments } from '../ui/Segments'
import { BitmapCanvas } from './BitmapCanvas'
import { Handles } from './Handles'
import { type Background, type Channel, usePictures } from './pictures'
import { useBench } from './store'

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
  const { view, set } = useBench()
  const recipe = useDocument((store) => store.recipe)
  const { result, problem } = usePictures()
  if (!recipe) return null
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
          <span className="ml-2">Fit {numberText((100 * size.width) / recipe.canvas.width)} %</span>
        </div>
      </div>
      <div ref={areaRef} className="relative min-h-0 grow">
        <div
          className="absolute top-0 left-1/2 -translate-x-1/2"
          style={{ width: size.width, height: size.height }}
        >
          <BitmapCanvas
            bitmap={result}
            label={`Frame of ${recipe.name}`}
            className="h-full w-full rounded-md bg-black"
          />
          {size.width > 0 && <Handles width={size.width} height={size.height} />}
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
    </>
  )
}
