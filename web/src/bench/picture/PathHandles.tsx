import { type KeyboardEvent, type MouseEvent, useState } from 'react'
import { useDocument } from '../../document/document'
import { shifted } from '../../recipe/moves'
import {
  addPath,
  handleLines,
  outline,
  type Part,
  pathNamed,
  pathsOf,
  placedPath,
  setVertex,
  splitAfter,
  turned,
  withoutVertex,
} from '../../recipe/paths'
import type { Path, Recipe, XY } from '../../recipe/types'
import { useBenchParts } from '../editing/store'
import { useEdit } from '../editing/useEdit'
import { usePlaces } from '../looking/usePlaces'
import { HandleDot } from './HandleDot'

/** The paths of the chosen layer on the picture, with their vertices to be dragged. */
export function PathHandles({ scale }: { scale: number }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing } = useBenchParts('frame', 'chosen', 'playing')
  const places = usePlaces()
  const layer = recipe?.layers.find((known) => known.id === chosen)
  if (!recipe || !layer || playing) return null
  const { canvas } = recipe
  return pathsOf(layer).map((name) => {
    const path = pathNamed(recipe, name)
    const placed = path && placedPath(path, places?.paths[name])
    if (!path || !placed) return null
    return (
      <div key={name}>
        <svg
          aria-hidden="true"
          viewBox={`0 0 ${canvas.width} ${canvas.height}`}
          className="pointer-events-none absolute inset-0 h-full w-full overflow-visible fill-none stroke-accent"
        >
          <path d={outline(placed)} vectorEffect="non-scaling-stroke" strokeWidth={1.5} />
          <path d={handleLines(placed)} vectorEffect="non-scaling-stroke" className="opacity-60" />
        </svg>
        {placed.vertices.map((_, i) => (
          <VertexHandles
            // biome-ignore lint/suspicious/noArrayIndexKey: a vertex is its place in the path
            key={i}
            {...{ path, placed, i, frame, scale }}
          />
        ))}
      </div>
    )
  })
}

interface VertexProps {
  path: Path
  placed: ReturnType<typeof placedPath>
  i: number
  frame: number
  scale: number
}

const PARTS: Part[] = ['at', 'arriving', 'leaving']

function VertexHandles({ path, placed, i, frame, scale }: VertexProps) {
  const { edit } = useEdit()
  const vertex = path.vertices?.[i]
  const places = placed.vertices[i]
  if (!vertex || !places) return null
  const { name } = path
  const label = `${name} ${i + 1}`

  function press(event: KeyboardEvent) {
    const ways: Record<string, [string, (all: Recipe) => Recipe]> = {
      Delete: ['remove a vertex', (all) => withoutVertex(all, name, i)],
      Backspace: ['remove a vertex', (all) => withoutVertex(all, name, i)],
      Enter: ['add a vertex', (all) => splitAfter(all, name, i, placed)],
      c: ['turn a corner', (all) => turned(all, name, i, placed)],
    }
    const way = ways[event.key]
    if (!way) return
    event.preventDefault()
    edit(...way)
  }

  return PARTS.filter((part) => part === 'at' || vertex[part] !== undefined).map((part) => {
    const own = places[part]
    const at: XY = part === 'at' ? own : [places.at[0] + own[0], places.at[1] + own[1]]
    return (
      <HandleDot
        key={part}
        name={part === 'at' ? `Vertex ${label}` : `Curve ${part} at ${label}`}
        says={part === 'at' ? 'Enter adds one after it, Delete removes it, C turns the corner' : ''}
        isSmall
        at={at}
        scale={scale}
        id={`${label} ${part}`}
        onMove={(all, to, whole) => {
          const moment = whole ? undefined : { frame, at: own }
          const by: XY = [to[0] - at[0], to[1] - at[1]]
          return setVertex(all, name, i, part, shifted(vertex[part] ?? [0, 0], by, moment))
        }}
        onKeyDown={part === 'at' ? press : undefined}
      />
    )
  })
}

/** Draws a mask or a path by pressing its places one after the other on the picture. */
export function PathDrawing({ scale }: { scale: number }) {
  const recipe = useDocument((store) => store.recipe)
  const { drawing, set } = useBenchParts('drawing', 'set')
  const { edit } = useEdit()
  const [places, setPlaces] = useState<XY[]>([])
  /** Where the next place would be, for those who draw with the arrow keys. */
  const [cursor, setCursor] = useState<XY>()
  if (!recipe || !drawing) return null
  const { canvas } = recipe
  const { closed } = drawing
  const least = closed ? 3 : 2
  const asks = closed ? 'Press the corners of the mask' : 'Press where the path goes'
  const stop = () => {
    setPlaces([])
    setCursor(undefined)
    set({ drawing: undefined })
  }

  function place(event: MouseEvent<HTMLElement>) {
    if (event.detail === 0) return // a press of a key, which `press` has taken
    const box = event.currentTarget.getBoundingClientRect()
    const x = Math.round((event.clientX - box.left) / scale)
    const y = Math.round((event.clientY - box.top) / scale)
    setPlaces([...places, [x, y]])
  }
  function press(event: KeyboardEvent) {
    const ways: Record<string, XY> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    }
    const way = ways[event.key]
    const [x, y] = cursor ?? [canvas.width / 2, canvas.height / 2]
    if (way) {
      const step = event.shiftKey ? 100 : 10
      setCursor([x + way[0] * step, y + way[1] * step])
    } else if (event.key === 'Enter' || event.key === ' ') {
      setPlaces([...places, [Math.round(x), Math.round(y)]])
      setCursor([x, y])
    } else return
    event.preventDefault()
  }
  function finish() {
    if (places.length >= least && drawing) {
      edit(closed ? 'draw a mask' : 'draw a path', (all) => {
        const [next, name] = addPath(all, places, closed)
        return drawing.onDrawn(next, name)
      })
    }
    stop()
  }

  return (
    <>
      <button
        type="button"
        // biome-ignore lint/a11y/noAutofocus: one asked to draw here
        autoFocus
        data-arrows
        aria-label={asks}
        title="Or move with the arrow keys, with Shift farther, and press Enter"
        onClick={place}
        onKeyDown={press}
        className="pointer-events-auto absolute inset-0 cursor-crosshair"
      >
        <svg
          aria-hidden="true"
          viewBox={`0 0 ${canvas.width} ${canvas.height}`}
          className="h-full w-full fill-accent/10 stroke-accent"
        >
          {closed ? (
            <polygon points={places.join(' ')} vectorEffect="non-scaling-stroke" />
          ) : (
            <polyline
              points={places.join(' ')}
              vectorEffect="non-scaling-stroke"
              className="fill-none"
            />
          )}
          {cursor && (
            <path
              d={`M${cursor[0] - 20} ${cursor[1]}h40M${cursor[0]} ${cursor[1] - 20}v40`}
              vectorEffect="non-scaling-stroke"
            />
          )}
        </svg>
      </button>
      <div className="pointer-events-auto absolute top-3 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded-xl bg-raised px-3 py-1.5 text-sm">
        {places.length < least ? `${asks}: ${places.length} so far.` : `${places.length} places.`}
        <button type="button" onClick={stop} className="text-quiet hover:text-text">
          Cancel
        </button>
        <button
          type="button"
          disabled={places.length < least}
          onClick={finish}
          className="font-semibold text-accent disabled:opacity-40"
        >
          Done
        </button>
      </div>
    </>
  )
}
