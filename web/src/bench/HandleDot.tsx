import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import type { Recipe, XY } from '../recipe/types'
import { useEdit } from './useEdit'

interface Props {
  /** What keeps its moves apart from those of others, for undo. */
  id: string
  name: string
  /** What stands beside it. */
  label?: string
  says?: string
  isSmall?: boolean
  left: number
  top: number
  pxOfCanvas: number
  onMove(recipe: Recipe, by: XY): Recipe
  onKeyDown?(event: KeyboardEvent): void
}

/** A place on the picture, dragged or walked with the arrow keys; with Shift finer, or in tens. */
export function HandleDot(props: Props) {
  const { id, name, label, says, isSmall, left, top, pxOfCanvas, onMove, onKeyDown } = props
  const { edit, finish } = useEdit()
  const last = useRef<XY>(undefined)
  const verb = `move ${label ?? name}`

  function press(event: PointerEvent<HTMLButtonElement>) {
    if (event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    last.current = [event.clientX, event.clientY]
  }
  function drag(event: PointerEvent<HTMLButtonElement>) {
    if (!last.current) return
    event.stopPropagation()
    const fine = event.shiftKey ? 0.1 : 1
    const by: XY = [
      (event.clientX - last.current[0]) * pxOfCanvas * fine,
      (event.clientY - last.current[1]) * pxOfCanvas * fine,
    ]
    if (by[0] === 0 && by[1] === 0) return
    last.current = [event.clientX, event.clientY]
    edit(verb, (recipe) => onMove(recipe, by), id)
  }
  function release() {
    if (!last.current) return
    last.current = undefined
    finish()
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
    edit(verb, (recipe) => onMove(recipe, way))
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
      style={{ left, top }}
      className="group absolute size-6 -translate-x-1/2 -translate-y-1/2 touch-none rounded-full"
    >
      <span
        className={`absolute rounded-full border-2 border-accent bg-black/70 group-hover:bg-accent ${isSmall ? 'inset-2' : 'inset-1.5'}`}
      />
      {label && (
        <span className="absolute top-1/2 left-6 -translate-y-1/2 rounded bg-black/60 px-1 text-xs whitespace-nowrap text-accent">
          {label}
        </span>
      )}
    </button>
  )
}
