import { Popover } from 'radix-ui'
import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import type { Place } from '../recipe/moving'
import { spoken } from '../recipe/sentence'
import { isMove, type Piece, type Recipe, type Setting, type Value } from '../recipe/types'
import { valueText } from '../recipe/wording'
import { Panel } from '../ui/Panel'
import { MoveMark } from './MoveMark'
import { Pieces } from './Pieces'
import { PiecesPicture } from './PiecesPicture'
import { Reference } from './Reference'
import { clamped, rangeOf, stepOf } from './ranges'
import { useEdit } from './useEdit'
import { ValueEditor } from './ValueEditor'

const NAMES = new Set(['layer', 'named', 'element'])
const DRAG_BEGINS_PX = 3
const PX_FOR_RANGE = 400

interface Props {
  setting: Setting
  value: Value
  /** What keeps this value apart from every other, for undo. */
  id: string
  /** Where it is, if its curve over the shot can be told. */
  place?: Place
  onPut(recipe: Recipe, value: Value): Recipe
}

/** A value in a sentence, by its type. */
export function SettingValue(props: Props) {
  const { setting, value, onPut } = props
  if (setting.pieces?.pictured) return <PiecesPicture {...props} value={value as Piece[]} />
  if (setting.pieces) return <Pieces {...props} value={value as Piece[]} />
  if (NAMES.has(setting.type))
    return <Reference setting={setting} value={String(value)} onPut={onPut} />
  if (setting.type === 'own') return <OwnSettings value={value} />
  return <OneValue {...props} />
}

/** What a copy has of its own, told in words. */
function OwnSettings({ value }: { value: Value }) {
  const names = Object.keys(value).map(spoken)
  return names.length > 0 && `Its own: ${names.join(', ')}.`
}

/** A value to drag on, to change by the arrow keys, or to open. */
function OneValue({ setting, value, id, place, onPut }: Props) {
  const { edit, finish } = useEdit()
  const [open, setOpen] = useState(false)
  const [typed, setTyped] = useState<string>()
  const drag = useRef<{ x: number; from: number; dragging: boolean }>(undefined)
  const number = draggable(value, setting)
  const name = spoken(setting.name)

  function put(next: Value, during?: string) {
    edit(`change ${name}`, (recipe) => onPut(recipe, next), during)
  }
  function putNumber(next: number, during?: string) {
    const rounded = Math.round(next / stepOf(setting)) * stepOf(setting)
    const neat = Number(rounded.toFixed(6))
    if (isMove(value) && value.moves === 'rate') put({ ...value, per_second: neat }, during)
    else put(clamped(neat, setting), during)
  }

  function press(event: PointerEvent<HTMLButtonElement>) {
    if (number === undefined || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    drag.current = { x: event.clientX, from: number, dragging: false }
  }
  function move(event: PointerEvent<HTMLButtonElement>) {
    const begun = drag.current
    if (!begun) return
    const px = event.clientX - begun.x
    if (!begun.dragging && Math.abs(px) < DRAG_BEGINS_PX) return
    begun.dragging = true
    const [least, most] = rangeOf(setting)
    const pace = event.shiftKey ? 0.1 : event.altKey ? 5 : 1
    putNumber(begun.from + (px * pace * (most - least)) / PX_FOR_RANGE, id)
  }
  function release() {
    if (drag.current?.dragging) {
      finish()
      setTimeout(() => {
        drag.current = undefined
      })
    } else drag.current = undefined
  }
  function key(event: KeyboardEvent) {
    if (number === undefined) return
    const ways: Record<string, number> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }
    const way = ways[event.key]
    if (way) {
      event.preventDefault()
      const steps = event.shiftKey || setting.type === 'whole' ? 1 : 10
      putNumber(number + way * stepOf(setting) * steps)
    } else if (/^[\d.,(-]$/.test(event.key)) {
      event.preventDefault()
      setTyped(event.key)
      setOpen(true)
    }
  }

  if (setting.type === 'switch') {
    return (
      <button type="button" className={PLAIN} onClick={() => put(value !== true)}>
        {valueText(value, setting)}
      </button>
    )
  }
  const moving = isMove(value)
  const isColour = setting.type === 'colour'
  return (
    <Popover.Root
      open={open}
      onOpenChange={(next) => {
        if (next && drag.current?.dragging) return
        if (!next) setTyped(undefined)
        setOpen(next)
      }}
    >
      <Popover.Trigger
        data-arrows={number !== undefined || undefined}
        aria-label={`${name}: ${valueText(value, setting)}${moving ? `, moves by ${value.moves}` : ''}`}
        title={setting.help}
        onPointerDown={press}
        onPointerMove={move}
        onPointerUp={release}
        onPointerCancel={release}
        onKeyDown={key}
        className={
          isColour
            ? SWATCH
            : `${moving ? MOVING : PLAIN} ${number === undefined ? '' : 'cursor-ew-resize! touch-none'}`
        }
        style={isColour ? { background: String(value) } : undefined}
      >
        {moving && <MoveMark way={value.moves} />}
        {!isColour && valueText(value, setting)}
      </Popover.Trigger>
      <Panel width="w-[340px]">
        <ValueEditor
          setting={setting}
          value={value}
          typed={typed}
          place={place}
          onChange={put}
          onSettle={finish}
        />
      </Panel>
    </Popover.Root>
  )
}

const VALUE =
  'rounded-sm px-0.5 font-semibold underline decoration-1 underline-offset-4 hover:bg-raised'
const PLAIN = `${VALUE} text-text decoration-faint`
const MOVING = `${VALUE} text-accent decoration-accent`
const SWATCH = 'inline-block h-3.5 w-7 translate-y-0.5 rounded border border-faint'

/** The number that dragging changes: the value, or how fast it moves. */
function draggable(value: Value, setting: Setting): number | undefined {
  if (setting.type !== 'number' && setting.type !== 'whole') return undefined
  if (isMove(value)) return value.moves === 'rate' ? (value.per_second as number) : undefined
  return typeof value === 'number' ? value : undefined
}
