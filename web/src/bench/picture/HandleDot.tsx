import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import type { Recipe, XY } from '../../recipe/types'
import { useEdit } from '../editing/useEdit'

const SNAP_PX = 8

interface Props {
  /** What keeps its moves apart from those of others, for undo. */
  id: string
  name: string
  /** What stands beside it. */
  label?: string
  says?: string
  isSmall?: boolean
  /** Px by which its label stands lower, where another one is. */
  lower?: number
  /** Where it is, in px of the canvas. */
  at: XY
  /** Px of the screen for one of the canvas. */
  scale: number
  /** Places that draw it to themselves. */
  snaps?: readonly XY[]
  /** Moved to a place; with Alt the whole of a motion moves along. */
  onMove(recipe: Recipe, to: XY, whole: boolean): Recipe
  onKeyDown?(event: KeyboardEvent): void
}

/**
 * A place on the picture, dragged or walked with the arrow keys; with Shift finer, or in tens. It
 * snaps to other places unless Ctrl is held.
 */
export function HandleDot(props: Props) {
  const {
    id,
    name,
    label,
    says,
    isSmall,
    lower = 0,
    at,
    scale,
    snaps = [],
    onMove,
    onKeyDown,
  } = props
  const { edit, finish } = useEdit()
  /** How it was when it was taken hold of: moves count from there. */
  const begun = useRef<Pick<Props, 'at' | 'onMove'> & { client: XY; moves: boolean }>(undefined)
  /** Where it was dragged to, until it is told where it is since. */
  const [dragged, setDragged] = useState<{ to: XY; from: string; held: boolean }>()
  const shown = dragged && (dragged.held || dragged.from === String(at)) ? dragged.to : at
  const verb = `move ${label ?? name}`

  function press(event: PointerEvent<HTMLButtonElement>) {
    if (event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    begun.current = { client: [event.clientX, event.clientY], at, onMove, moves: false }
  }
  function drag(event: PointerEvent<HTMLButtonElement>) {
    const from = begun.current
    if (!from) return
    event.stopPropagation()
    const pace = (event.shiftKey ? 0.1 : 1) / scale
    const to: XY = [
      from.at[0] + (event.clientX - from.client[0]) * pace,
      from.at[1] + (event.clientY - from.client[1]) * pace,
    ]
    if (!from.moves && to[0] === from.at[0] && to[1] === from.at[1]) return
    from.moves = true
    const near = event.ctrlKey ? undefined : nearest(snaps, to, SNAP_PX / scale)
    setDragged({ to: near ?? to, from: String(at), held: true })
    edit(verb, (recipe) => from.onMove(recipe, near ?? to, event.altKey), id)
  }
  function release() {
    if (begun.current?.moves) finish()
    begun.current = undefined
    setDragged((last) => last && { ...last, held: false })
  }
  function walk(event: KeyboardEvent<HTMLButtonElement>) {
    const step = event.shiftKey ? 10 : 1
    const ways: Record<string, XY> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    }
    const way = ways[event.key]
    if (!way) return onKeyDown?.(event)
    event.preventDefault()
    edit(verb, (recipe) => onMove(recipe, [at[0] + way[0], at[1] + way[1]], event.altKey))
  }

  return (
    <button
      type="button"
      data-arrows
      aria-label={name}
      title={says}
      onPointerDown={press}
      onPointerMove={drag}
      onPointerUp={release}
      onPointerCancel={release}
      onKeyDown={walk}
      style={{ left: shown[0] * scale, top: shown[1] * scale }}
      className="group pointer-events-auto absolute size-6 -translate-x-1/2 -translate-y-1/2 touch-none rounded-full"
    >
      <span
        className={`absolute rounded-full border-2 border-accent bg-black/70 group-hover:bg-accent ${isSmall ? 'inset-2' : 'inset-1.5'}`}
      />
      {label && (
        <span
          style={{ top: 16 + lower }}
          className={`absolute left-4 rounded bg-black/60 px-1 text-xs whitespace-nowrap text-accent ${isSmall ? 'invisible group-hover:visible group-focus-visible:visible' : ''}`}
        >
          {label}
        </span>
      )}
    </button>
  )
}

function nearest(places: readonly XY[], to: XY, within: number): XY | undefined {
  const far = ([x, y]: XY) => Math.hypot(x - to[0], y - to[1])
  const close = places.filter((place) => far(place) <= within)
  return close.sort((a, b) => far(a) - far(b))[0]
}
