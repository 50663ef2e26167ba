import { Popover } from 'radix-ui'
import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import { moveNamed } from '../../recipe/moves'
import { spoken } from '../../recipe/sentence'
import { isMove, type Setting, type Value } from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { valueText } from '../../recipe/wording'
import { numberText } from '../../ui/numbers'
import { Panel } from '../../ui/Panel'
import { useBench } from '../editing/store'
import { useEdit } from '../editing/useEdit'
import { useCurve } from '../looking/useCurves'
import { valueNow } from './CurveLine'
import { MoveMark } from './MoveMark'
import type { ValueProps } from './pieces'
import { Reference } from './Reference'
import { clamped, rangeOf, stepOf } from './ranges'
import { ValueEditor } from './ValueEditor'

const NAMES = new Set(['layer', 'named', 'element'])
const DRAG_BEGINS_PX = 3
const PX_FOR_RANGE = 400

/** A value in a sentence that is not several alike. */
export function PlainValue(props: ValueProps) {
  const { setting, value, onPut } = props
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
function OneValue({ setting, value, id, where, label, onPut }: ValueProps) {
  const { edit, finish } = useEdit()
  const [open, setOpen] = useState(false)
  const [typed, setTyped] = useState<string>()
  const drag = useRef<{ x: number; from: number; dragging: boolean }>(undefined)
  const number = draggable(value, setting)
  const name = label ?? spoken(setting.name)
  const now = useFormulaNow(value, setting, where)

  function put(next: Value, during?: string) {
    edit(`change ${name}`, (recipe) => onPut(recipe, next), during)
  }
  function putNumber(next: number, during?: string) {
    const rounded = Math.round(next / stepOf(setting)) * stepOf(setting)
    const neat = Number(rounded.toFixed(6))
    const field = isMove(value) && moveNamed(value.moves)?.dragged
    if (isMove(value) && field) put({ ...value, [field]: neat }, during)
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
      putNumber(number + way * stepOf(setting) * (event.shiftKey ? 10 : 1))
    } else if (/^[\d.,(-]$/.test(event.key)) {
      event.preventDefault()
      setTyped(event.key)
      setOpen(true)
    }
  }

  if (setting.type === 'switch') {
    return (
      <button
        type="button"
        aria-pressed={value === true}
        aria-label={`${name}: ${valueText(value, setting)}`}
        title={setting.help}
        className={PLAIN}
        onClick={() => put(value !== true)}
      >
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
        data-shows-colour={isColour || undefined}
        aria-label={`${name}: ${now ?? valueText(value, setting)}${moving ? `, moves by ${value.moves}` : ''}`}
        title={now === undefined ? setting.help : `${valueText(value, setting)}\n${setting.help}`}
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
        {!isColour && (now ?? valueText(value, setting))}
      </Popover.Trigger>
      <Panel label={`Change ${name}`} width="w-[340px]">
        <ValueEditor
          setting={setting}
          name={name}
          value={value}
          typed={typed}
          where={where}
          onChange={put}
          onSettle={finish}
        />
      </Panel>
    </Popover.Root>
  )
}

/** What a formula gives at the current frame, once it is known. */
function useFormulaNow(value: Value, setting: Setting, where?: Where): string | undefined {
  const isFormula = isMove(value) && value.moves === 'formula'
  const curve = useCurve(isFormula ? where : undefined)
  const frame = useBench((store) => (isFormula ? store.frame : 0))
  const now = curve && valueNow(curve, frame)
  return now?.length === 1 ? valueText(now[0] ?? 0, setting) : now?.map(numberText).join(', ')
}

const VALUE =
  'rounded-sm px-0.5 font-semibold underline decoration-1 underline-offset-4 hover:bg-raised'
const PLAIN = `${VALUE} text-text decoration-faint`
const MOVING = `${VALUE} text-accent decoration-accent`
const SWATCH = 'inline-block h-3.5 w-7 translate-y-0.5 rounded border border-faint'

/** The number that dragging changes: the value, or what its way of moving declares. */
function draggable(value: Value, setting: Setting): number | undefined {
  if (setting.type !== 'number' && setting.type !== 'whole') return undefined
  const dragged = isMove(value) ? value[moveNamed(value.moves)?.dragged ?? ''] : value
  return typeof dragged === 'number' ? dragged : undefined
}
