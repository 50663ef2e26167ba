import { useQuery } from '@tanstack/react-query'
import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { changeNode, movePoint, placeAt, shifted } from '../recipe/edits'
import { spoken } from '../recipe/sentence'
import { isMove, type Recipe, type Value, valueIn, type XY } from '../recipe/types'
import { useBench } from './store'
import { useEdit } from './useEdit'

interface Handle {
  id: string
  label: string
  at: XY
  moved(recipe: Recipe, by: XY): Recipe
}

/** The recipe's points, and the chosen layer's own ones, to be dragged on the picture. */
export function Handles({ width, height }: { width: number; height: number }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen, playing } = useBench()
  const catalogue = useQuery(catalogueQuery)
  if (!recipe || playing) return null

  const handles: Handle[] = []
  for (const point of recipe.points) {
    const at = placeAt(recipe, point.at, frame)
    if (at) {
      const moved = (all: Recipe, by: XY) => movePoint(all, point.name, by)
      handles.push({ id: `point ${point.name}`, label: point.name, at, moved })
    }
  }
  const layer = recipe.layers.find((known) => known.id === chosen)
  const kind = catalogue.data?.sources.find((known) => known.name === layer?.source.kind)
  for (const setting of kind?.settings ?? []) {
    if (!layer || setting.type !== 'point') continue
    const value = valueIn(layer.source, setting)
    const sitsOnPoint = isMove(value) && value.moves === 'follow' && !value.offset
    const at = placeAt(recipe, value, frame, layer.first)
    if (!at || sitsOnPoint) continue
    const moved = (all: Recipe, by: XY) => {
      const source = all.layers.find((known) => known.id === layer.id)?.source
      const before: Value = source ? valueIn(source, setting) : value
      return changeNode(all, { layer: layer.id }, { [setting.name]: shifted(before, by) })
    }
    handles.push({ id: `setting ${setting.name}`, label: spoken(setting.name), at, moved })
  }
  const { width: canvasWidth, height: canvasHeight } = recipe.canvas
  return handles.map((handle) => (
    <HandleDot
      key={handle.id}
      handle={handle}
      left={(handle.at[0] / canvasWidth) * width}
      top={(handle.at[1] / canvasHeight) * height}
      pxOfCanvas={canvasWidth / width}
    />
  ))
}

interface DotProps {
  handle: Handle
  left: number
  top: number
  pxOfCanvas: number
}

function HandleDot({ handle, left, top, pxOfCanvas }: DotProps) {
  const { edit, finish } = useEdit()
  const last = useRef<XY>(undefined)

  function press(event: PointerEvent<HTMLButtonElement>) {
    if (event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    last.current = [event.clientX, event.clientY]
  }
  function drag(event: PointerEvent<HTMLButtonElement>) {
    if (!last.current) return
    const fine = event.shiftKey ? 0.1 : 1
    const by: XY = [
      (event.clientX - last.current[0]) * pxOfCanvas * fine,
      (event.clientY - last.current[1]) * pxOfCanvas * fine,
    ]
    if (by[0] === 0 && by[1] === 0) return
    last.current = [event.clientX, event.clientY]
    edit(`move ${handle.label}`, (recipe) => handle.moved(recipe, by), handle.id)
  }
  function release() {
    if (!last.current) return
    last.current = undefined
    finish()
  }
  function nudge(event: KeyboardEvent<HTMLButtonElement>) {
    const step = event.shiftKey ? 10 : 1
    const by: Record<string, XY> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    }
    const distance = by[event.key]
    if (!distance) return
    event.preventDefault()
    edit(`move ${handle.label}`, (recipe) => handle.moved(recipe, distance))
  }

  return (
    <button
      type="button"
      data-arrows
      aria-label={`Point ${handle.label}`}
      onPointerDown={press}
      onPointerMove={drag}
      onPointerUp={release}
      onPointerCancel={release}
      onKeyDown={nudge}
      style={{ left, top }}
      className="group absolute size-6 -translate-x-1/2 -translate-y-1/2 touch-none rounded-full"
    >
      <span className="absolute inset-1.5 rounded-full border-2 border-accent bg-black/70 group-hover:bg-accent" />
      <span className="absolute top-1/2 left-6 -translate-y-1/2 rounded bg-black/60 px-1 text-xs whitespace-nowrap text-accent">
        {handle.label}
      </span>
    </button>
  )
}
