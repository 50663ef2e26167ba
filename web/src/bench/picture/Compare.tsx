import { type PointerEvent, useRef } from 'react'
import { Segments } from '../../ui/Segments'
import { type Comparing, useBenchParts } from '../editing/store'
import { BitmapCanvas, ResultCanvas } from '../looking/BitmapCanvas'
import { usePictures } from '../looking/pictures'

const WAYS: { value: Comparing; label: string }[] = [
  { value: 'off', label: 'Off' },
  { value: 'wipe', label: 'Wipe' },
  { value: 'beside', label: 'Beside' },
  { value: 'difference', label: 'Difference' },
]

/** Keeps the picture that is shown, to look at others beside it. */
export function KeepButton() {
  const isThere = usePictures((store) => store.result !== undefined)
  const { kept, frame, comparing, set } = useBenchParts('kept', 'frame', 'comparing', 'set')

  async function keep() {
    const { result } = usePictures.getState()
    if (!result) return
    kept?.bitmap.close()
    set({
      kept: { bitmap: await createImageBitmap(result), says: `frame ${frame}` },
      comparing: 'wipe',
    })
  }

  return (
    <div className="flex items-center gap-1">
      <button
        type="button"
        disabled={!isThere}
        title="Keep this picture to compare others with it"
        onClick={() => void keep()}
        className="h-6 rounded-full px-2 hover:bg-raised"
      >
        Keep
      </button>
      {kept && (
        <Segments
          label={`Compare with the kept ${kept.says}`}
          value={comparing}
          options={WAYS}
          onChange={(way) => set({ comparing: way })}
        />
      )}
    </div>
  )
}

/** The kept picture over the one that is shown, as the person wants to compare them. */
export function KeptPicture() {
  const { kept, comparing, wipe, set } = useBenchParts('kept', 'comparing', 'wipe', 'set')
  const area = useRef<HTMLDivElement>(null)
  if (!kept || comparing === 'off') return null
  const label = `Kept ${kept.says}`

  function pull(event: PointerEvent<HTMLElement>) {
    if (event.buttons !== 1 || !area.current) return
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    const box = area.current.getBoundingClientRect()
    set({ wipe: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) })
  }

  if (comparing === 'difference') {
    return (
      <BitmapCanvas
        bitmap={kept.bitmap}
        label={label}
        className="pointer-events-none absolute inset-0 h-full w-full mix-blend-difference"
      />
    )
  }
  if (comparing === 'beside') {
    return (
      <div className="pointer-events-none absolute inset-0 flex gap-1 bg-ground">
        <BitmapCanvas
          bitmap={kept.bitmap}
          label={label}
          className="h-full w-1/2 min-w-0 object-contain"
        />
        <ResultCanvas label="The frame now" className="h-full w-1/2 min-w-0 object-contain" />
      </div>
    )
  }
  return (
    <div ref={area} className="pointer-events-none absolute inset-0">
      <BitmapCanvas
        bitmap={kept.bitmap}
        label={label}
        className="absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(0 ${100 * (1 - wipe)}% 0 0)` }}
      />
      <div
        role="slider"
        tabIndex={0}
        aria-label="Wipe between the kept picture and this one"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(100 * wipe)}
        data-arrows
        onPointerDown={pull}
        onPointerMove={pull}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
          if (by) set({ wipe: Math.min(1, Math.max(0, wipe + by)) })
        }}
        className="pointer-events-auto absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none"
        style={{ left: `${100 * wipe}%` }}
      >
        <span className="mx-auto block h-full w-0.5 bg-text" />
      </div>
    </div>
  )
}
