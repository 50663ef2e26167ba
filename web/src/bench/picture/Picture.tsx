import {
  type CSSProperties,
  type PointerEvent,
  type RefObject,
  useState,
  type WheelEvent,
} from 'react'
import { useDocument } from '../../document/document'
import { whereIs } from '../../recipe/problems'
import type { XY } from '../../recipe/types'
import { useBenchParts } from '../editing/store'
import { ResultCanvas } from '../looking/BitmapCanvas'
import { usePictures } from '../looking/pictures'
import { Awaited, Smaller, StandsIn } from './Awaited'
import { KeepButton, KeptPicture } from './Compare'
import { Guides } from './Guides'
import { Handles } from './Handles'
import { PathDrawing, PathHandles } from './PathHandles'
import { PxValues } from './PxValues'
import { ViewBar } from './ViewBar'
import { Warned } from './Warned'

interface Props {
  areaRef: RefObject<HTMLDivElement | null>
  size: { width: number; height: number }
  hasPlate: boolean
  /** The scale at which the picture is wanted. */
  wanted: number
  onWhole: () => void
}

/** The result, with what can be taken hold of on it. */
export function Picture({ areaRef, size, hasPlate, wanted, onWhole }: Props) {
  const { zoom, safeEdges, set } = useBenchParts('zoom', 'safeEdges', 'set')
  const [over, setOver] = useState<XY>()
  const recipe = useDocument((store) => store.recipe)
  const problem = usePictures((store) => store.problem)
  if (!recipe) return null
  const { canvas } = recipe
  const { width, height, overscan = 0 } = canvas
  const scale = size.width / (width + 2 * overscan)

  /** Ctrl and the wheel, or two fingers, size the picture about the pointer. */
  function wheel(event: WheelEvent) {
    if (!event.ctrlKey && !event.metaKey) return
    set({ zoom: Math.min(8, Math.max(0.1, scale * 2 ** (-event.deltaY / 300))) })
  }
  function pan(event: PointerEvent<HTMLElement>) {
    if (event.buttons === 0 || !zoom) return
    event.currentTarget.scrollBy(-event.movementX, -event.movementY)
  }
  function point(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    const place = (share: number, most: number) => {
      const px = Math.floor(share * (most + 2 * overscan)) - overscan
      return Math.min(most + overscan - 1, Math.max(-overscan, px))
    }
    setOver([
      place((event.clientX - box.left) / box.width, width),
      place((event.clientY - box.top) / box.height, height),
    ])
  }

  return (
    <>
      <ViewBar hasPlate={hasPlate} zoomNow={scale} />
      <div
        ref={areaRef}
        onWheel={wheel}
        onPointerMove={pan}
        style={{ '--whole': `${(100 * height) / width}vw` } as CSSProperties}
        className={`sticky top-0 z-20 order-first h-[max(96px,min(42vh,var(--whole)))] min-h-0 shrink-0 bg-ground wide:relative wide:z-auto wide:order-none wide:h-auto wide:shrink wide:grow ${zoom ? 'cursor-grab overflow-auto' : ''}`}
      >
        <div
          className="relative mx-auto"
          style={{ width: size.width, height: size.height }}
          onPointerMove={point}
          onPointerLeave={() => setOver(undefined)}
        >
          <ResultCanvas
            label={`Frame of ${recipe.name}`}
            className="h-full w-full rounded-md bg-black"
          />
          <Awaited />
          <StandsIn />
          <Smaller wanted={wanted} onWhole={onWhole} />
          <KeptPicture />
          {size.width > 0 && (
            <div className="pointer-events-none absolute" style={{ inset: overscan * scale }}>
              <Guides canvas={canvas} safeEdges={safeEdges} />
              <PathHandles scale={scale} />
              <Handles scale={scale} />
              <PathDrawing scale={scale} />
            </div>
          )}
          {problem && (
            <div
              role="alert"
              className="absolute inset-x-6 bottom-4 rounded-xl bg-raised/95 px-4 py-2.5 text-sm"
            >
              <p className="text-coral">{problem.says}</p>
              {problem.problems.slice(0, 4).map((line) => (
                <p key={line.path + line.says} className="text-quiet">
                  {whereIs(recipe, line.path)}: {line.says}
                </p>
              ))}
            </div>
          )}
        </div>
      </div>
      <div className="mt-1 flex min-h-7 shrink-0 flex-wrap items-center gap-x-3 px-4 text-xs text-quiet wide:px-0">
        {over ? <PxValues over={over} /> : <Warned />}
        <div className="ml-auto flex items-center gap-1">
          <button
            type="button"
            aria-pressed={safeEdges}
            title="Lines within which pictures and lettering are safe from being cut off"
            onClick={() => set({ safeEdges: !safeEdges })}
            className={`h-6 rounded-full px-2 hover:bg-raised ${safeEdges ? 'text-accent' : ''}`}
          >
            Safe edges
          </button>
          <KeepButton />
        </div>
      </div>
    </>
  )
}
