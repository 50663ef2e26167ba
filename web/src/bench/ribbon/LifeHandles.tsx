import { type KeyboardEvent, type PointerEvent, type RefObject, useRef } from 'react'
import { useDocument } from '../../document/document'
import { changeLayer, changeLife } from '../../recipe/edits'
import type { Shown } from '../../recipe/frames'
import { envelope } from '../../recipe/life'
import type { Layer, Recipe } from '../../recipe/types'
import { useEdit } from '../editing/useEdit'

interface Props {
  layer: Layer
  shown: Shown
  /** What is as wide as the frames that are shown. */
  track: RefObject<HTMLDivElement | null>
}

interface Handle {
  name: string
  /** Frame and level, from 0 to 1, where it stands. */
  at: [number, number]
  text: string
  /** The layer after a move by frames and by a share of the full level. */
  moved(recipe: Recipe, frames: number, level: number): Recipe
}

/** Where the envelope stands in the ribbon, and how high it is, in px. */
const TOP = 31
const HIGH = 36

/** The corners of a layer's life and the ends of its time, to be dragged or walked by arrow keys. */
export function LifeHandles({ layer, shown, track }: Props) {
  const canvas = useDocument((store) => store.recipe?.canvas)
  const { edit, finish } = useEdit()
  const drag = useRef<{ x: number; y: number; layer: Layer; handle: Handle; moves: boolean }>(
    undefined,
  )
  if (!canvas) return null

  function move(handle: Handle, frames: number, level: number, base: Layer, gesture?: string) {
    edit(
      `change the ${handle.name} of ${layer.name}`,
      (all) => {
        const before = changeLayer(all, layer.id, base)
        return handle.moved(before, frames, level)
      },
      gesture,
    )
  }
  function press(event: PointerEvent<HTMLElement>, handle: Handle) {
    event.currentTarget.setPointerCapture(event.pointerId)
    drag.current = { x: event.clientX, y: event.clientY, layer, handle, moves: false }
  }
  function pull(event: PointerEvent<HTMLElement>) {
    const begun = drag.current
    if (!begun || !track.current) return
    const frames = Math.round(
      ((event.clientX - begun.x) * shown.length) / track.current.clientWidth,
    )
    const level = (begun.y - event.clientY) / HIGH
    begun.moves = true
    move(begun.handle, frames, level, begun.layer, `${layer.id} ${begun.handle.name}`)
  }
  function release() {
    if (drag.current?.moves) finish()
    drag.current = undefined
  }
  function walk(event: KeyboardEvent, handle: Handle) {
    const step = event.shiftKey ? 10 : 1
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, 0.01 * step],
      ArrowDown: [0, -0.01 * step],
    }
    const way = ways[event.key]
    if (!way) return
    event.preventDefault()
    event.stopPropagation()
    move(handle, way[0], way[1], layer)
  }

  const handles = handlesOf(layer, canvas.first, canvas.last)
  const isShown = ({ at: [frame] }: Handle) => frame >= shown.first && frame <= shown.last + 1
  return handles.filter(isShown).map((handle) => (
    <button
      key={handle.name}
      type="button"
      data-arrows
      aria-label={`${handle.name} of ${layer.name}: ${handle.text}`}
      title={`${handle.name}: ${handle.text}`}
      onPointerDown={(event) => press(event, handle)}
      onPointerMove={pull}
      onPointerUp={release}
      onPointerCancel={release}
      onKeyDown={(event) => walk(event, handle)}
      className="group absolute z-10 grid size-4 -translate-x-1/2 -translate-y-1/2 touch-none place-items-center"
      style={{
        left: `${shown.percent(handle.at[0])}%`,
        top: TOP + HIGH * (1 - handle.at[1]),
      }}
    >
      <span className="size-2 rounded-full bg-quiet ring-2 ring-ground group-hover:bg-accent" />
    </button>
  ))
}

function handlesOf(layer: Layer, first: number, last: number): Handle[] {
  const from = layer.first ?? first
  const to = layer.last ?? last
  const corners = envelope(layer, from, to)
  const number = (name: string, absent = 0) => {
    const value = layer.life?.[name]
    return typeof value === 'number' ? value : absent
  }
  const times = (name: string, sign: 1 | -1 = 1) => ({
    text: `${number(name)} frames`,
    moved: (recipe: Recipe, frames: number) =>
      changeLife(recipe, layer.id, name, Math.max(0, Math.round(number(name) + sign * frames))),
  })
  const whole = (value: number) => Math.round(value)
  const span = (edge: 'first' | 'last', value: number): Handle => ({
    name: edge === 'first' ? 'beginning' : 'end',
    at: [edge === 'first' ? value : value + 1, 0.14],
    text: `frame ${value}`,
    moved: (recipe, frames) => {
      const limit = edge === 'first' ? [first, to] : [from, last]
      const next = Math.min(limit[1] ?? value, Math.max(limit[0] ?? value, whole(value + frames)))
      return changeLayer(recipe, layer.id, { [edge]: next })
    },
  })
  const corner = (i: number): [number, number] => [
    (corners[i]?.[0] ?? from) + 0.5,
    corners[i]?.[1] ?? 1,
  ]
  return [
    span('first', from),
    { name: 'rise', at: corner(1), ...times('rise') },
    { name: 'peak', at: corner(2), ...times('peak') },
    {
      name: 'settling',
      at: corner(3),
      text: `${number('settle')} frames, to ${number('level', 100)} %`,
      moved: (recipe, frames, level) =>
        changeLife(
          times('settle').moved(recipe, frames),
          layer.id,
          'level',
          Math.min(100, Math.max(0, whole(number('level', 100) + 100 * level))),
        ),
    },
    { name: 'fall', at: corner(4), ...times('fall', -1) },
    span('last', to),
  ]
}
