import { type KeyboardEvent, type MouseEvent, useState } from 'react'
import { useDocument } from '../recipe/document'
import {
  addPath,
  handleLines,
  isStill,
  moveVertex,
  outline,
  type Part,
  partAt,
  pathNamed,
  pathsOf,
  splitAfter,
  turned,
  withoutVertex,
} from '../recipe/paths'
import type { Piece, Recipe, XY } from '../recipe/types'
import { HandleDot } from './HandleDot'
import { useBench } from './store'
import { useEdit } from './useEdit'

interface Props {
  width: number
  height: number
}

/** The paths of the chosen layer on the picture, with their vertices to be dragged. */
export function PathHandles({ width, height }: Props) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing } = useBench()
  const layer = recipe?.layers.find((known) => known.id === chosen)
  if (!recipe || !layer || playing) return null
  const { canvas } = recipe
  return pathsOf(layer).map((name) => {
    const path = pathNamed(recipe, name)
    if (!path) return null
    return (
      <div key={name}>
        <svg
          aria-hidden="true"
          viewBox={`0 0 ${canvas.width} ${canvas.height}`}
          className="pointer-events-none absolute inset-0 h-full w-full overflow-visible fill-none stroke-accent"
        >
          <path
            d={outline(recipe, path, frame)}
            vectorEffect="non-scaling-stroke"
            strokeWidth={1.5}
          />
          <path
            d={handleLines(recipe, path, frame)}
            vectorEffect="non-scaling-stroke"
            className="opacity-60"
          />
        </svg>
        {path.vertices?.map((vertex, i) => (
          <VertexHandles
            // biome-ignore lint/suspicious/noArrayIndexKey: a vertex is its place in the path
            key={i}
            {...{ recipe, name, vertex, i, frame }}
            sizeOfPx={[width / canvas.width, height / canvas.height]}
          />
        ))}
      </div>
    )
  })
}

interface VertexProps {
  recipe: Recipe
  name: string
  vertex: Piece
  i: number
  frame: number
  sizeOfPx: XY
}

function VertexHandles({ recipe, name, vertex, i, frame, sizeOfPx }: VertexProps) {
  const { edit } = useEdit()
  const at = partAt(recipe, vertex, 'at', frame)
  const label = `${name} ${i + 1}`
  const parts: Part[] = ['at', 'arriving', 'leaving']

  function press(event: KeyboardEvent) {
    const ways: Record<string, [string, (all: Recipe) => Recipe]> = {
      Delete: ['remove a vertex', (all) => withoutVertex(all, name, i)],
      Backspace: ['remove a vertex', (all) => withoutVertex(all, name, i)],
      Enter: ['add a vertex', (all) => splitAfter(all, name, i, frame)],
      c: ['turn a corner', (all) => turned(all, name, i, frame)],
    }
    const way = ways[event.key]
    if (!way) return
    event.preventDefault()
    edit(...way)
  }

  return parts
    .filter((part) => (part === 'at' ? isStill(vertex) : vertex[part] !== undefined))
    .map((part) => {
      const off = part === 'at' ? [0, 0] : partAt(recipe, vertex, part, frame)
      const place: XY = [at[0] + (off[0] ?? 0), at[1] + (off[1] ?? 0)]
      return (
        <HandleDot
          key={part}
          name={part === 'at' ? `Vertex ${label}` : `Curve ${part} at ${label}`}
          says={
            part === 'at' ? 'Enter adds one after it, Delete removes it, C turns the corner' : ''
          }
          isSmall
          left={place[0] * sizeOfPx[0]}
          top={place[1] * sizeOfPx[1]}
          pxOfCanvas={1 / sizeOfPx[0]}
          id={`${label} ${part}`}
          onMove={(all, by) => moveVertex(all, name, i, part, by)}
          onKeyDown={part === 'at' ? press : undefined}
        />
      )
    })
}

/** Draws a mask by pressing its corners one after the other on the picture. */
export function MaskDrawing({ width, height }: Props) {
  const recipe = useDocument((store) => store.recipe)
  const { drawing, set } = useBench()
  const { edit } = useEdit()
  const [places, setPlaces] = useState<XY[]>([])
  if (!recipe || !drawing) return null
  const { canvas } = recipe
  const stop = () => {
    setPlaces([])
    set({ drawing: undefined })
  }

  function place(event: MouseEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    const x = Math.round(((event.clientX - box.left) / width) * canvas.width)
    const y = Math.round(((event.clientY - box.top) / height) * canvas.height)
    setPlaces([...places, [x, y]])
  }
  function finish() {
    if (places.length >= 3 && drawing) {
      edit('draw a mask', (all) => {
        const [next, name] = addPath(all, places)
        return drawing.onDrawn(next, name)
      })
    }
    stop()
  }

  return (
    <>
      <button
        type="button"
        aria-label="Press the corners of the mask"
        onClick={place}
        className="absolute inset-0 cursor-crosshair"
      >
        <svg
          aria-hidden="true"
          viewBox={`0 0 ${canvas.width} ${canvas.height}`}
          className="h-full w-full fill-accent/10 stroke-accent"
        >
          <polygon points={places.join(' ')} vectorEffect="non-scaling-stroke" />
        </svg>
      </button>
      <div className="absolute top-3 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded-xl bg-raised px-3 py-1.5 text-sm">
        {places.length < 3
          ? `Press the corners of the mask: ${places.length} so far.`
          : `${places.length} corners.`}
        <button type="button" onClick={stop} className="text-quiet hover:text-text">
          Cancel
        </button>
        <button
          type="button"
          disabled={places.length < 3}
          onClick={finish}
          className="font-semibold text-accent disabled:opacity-40"
        >
          Done
        </button>
      </div>
    </>
  )
}
