import { type PointerEvent, useRef } from 'react'
import { useDocument } from '../../document/document'
import { hexOfLight } from '../../recipe/colour'
import type { Shown } from '../../recipe/frames'
import { movedKeys, pasted, withKey, withoutKeys } from '../../recipe/keys'
import { keysOf } from '../../recipe/moves'
import { isMove, type Key, type Move, type Plain, type Recipe } from '../../recipe/types'
import { putAt, valueAt } from '../../recipe/where'
import { Menu } from '../../ui/Menu'
import { numberText } from '../../ui/numbers'
import { useBenchParts } from '../editing/store'
import { useEdit } from '../editing/useEdit'
import type { Curve } from '../looking/useCurves'
import { useCurves } from '../looking/useCurves'
import { CurveLine, valueNow } from '../values/CurveLine'
import { KeyMark } from './KeyMark'

const DRAG_BEGINS_PX = 3

/** A lane for each value that moves in what is chosen, and in what that names, with curve and keys. */
export function Lanes({ of, shown }: { of: string; shown: Shown }) {
  const recipe = useDocument((store) => store.recipe)
  const curves = useCurves()
  const moving = curves.filter((curve) => recipe && isMove(valueAt(recipe, curve.where)))
  if (moving.length === 0) return null
  return (
    <ul
      aria-label={`What moves in ${of}`}
      className="mt-1 max-h-[104px] overflow-y-auto overscroll-contain"
    >
      {moving.map((curve) => (
        <Lane key={curve.where.join(' ')} {...{ curve, shown }} />
      ))}
    </ul>
  )
}

function Lane({ curve, shown }: { curve: Curve; shown: Shown }) {
  const recipe = useDocument((store) => store.recipe)
  const { frame, copiedKeys, set } = useBenchParts('frame', 'copiedKeys', 'set')
  const { edit, finish } = useEdit()
  const row = useRef<HTMLDivElement>(null)
  const drag = useRef<{ x: number; frame: number; keys: Key[]; by: number }>(undefined)
  const value = recipe && valueAt(recipe, curve.where)
  if (!recipe || !isMove(value)) return null
  const { first, last } = recipe.canvas
  const name = curve.says
  const keys = keysOf(value)
  const id = `${curve.where.join(' ')} keys`
  const now = valueNow(curve, frame)

  function put(says: string, keys: Key[], gesture?: string) {
    const next = (all: Recipe) => ({ ...(valueAt(all, curve.where) as Move), keys })
    edit(`${says} of ${name}`, (all) => putAt(all, curve.where, next(all)), gesture)
  }
  function press(event: PointerEvent, key: Key) {
    if (!keys || event.button !== 0) return
    drag.current = { x: event.clientX, frame: key.frame, keys, by: 0 }
  }
  function pull(event: PointerEvent) {
    const begun = drag.current
    if (!begun || !row.current) return
    if (begun.by === 0 && Math.abs(event.clientX - begun.x) < DRAG_BEGINS_PX) return
    row.current.setPointerCapture(event.pointerId)
    const by = Math.round(((event.clientX - begun.x) * shown.length) / row.current.clientWidth)
    if (by === begun.by) return
    begun.by = by
    put('move a key', movedKeys(begun.keys, [begun.frame], by), id)
  }
  function release() {
    if (drag.current?.by) finish()
    drag.current = undefined
  }

  return (
    <li className="relative">
      <div
        ref={row}
        onPointerMove={pull}
        onPointerUp={release}
        onPointerCancel={release}
        className="relative mr-7 h-[34px] touch-none overflow-x-clip border-t border-line"
      >
        <CurveLine curve={curve} first={shown.first} length={shown.length} />
        <span className="pointer-events-none absolute top-0.5 left-5 text-xs text-quiet">
          {name} <span className="text-faint">{now?.map(numberText).join(', ')}</span>
        </span>
        {keys?.map((key, i) => (
          <KeyMark
            // biome-ignore lint/suspicious/noArrayIndexKey: a key keeps its place while it is dragged
            key={i}
            name={name}
            at={key}
            left={shown.percent(key.frame + 0.5)}
            keys={keys}
            onPress={(event) => press(event, key)}
            onKeys={put}
            onGo={() => set({ frame: Math.min(last, Math.max(first, key.frame)) })}
          />
        ))}
      </div>
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`More for the lane of ${name}`}
            className="absolute top-1.5 right-0 w-6 rounded bg-ground/80 text-quiet hover:text-text"
          >
            ⋯
          </button>
        }
        items={
          keys
            ? [
                {
                  label: 'Set a key here',
                  disabled: !now,
                  onPick: () => now && put('set a key', withKey(keys, frame, plainOf(now, keys))),
                },
                {
                  label: 'Take out the key here',
                  disabled: !keys.some((key) => key.frame === frame),
                  onPick: () => put('take out a key', withoutKeys(keys, [frame])),
                },
                { label: 'Copy the keys', onPick: () => set({ copiedKeys: keys }) },
                {
                  label: 'Paste keys from here on',
                  disabled: !alike(copiedKeys, keys),
                  onPick: () => put('paste keys', pasted(keys, copiedKeys, frame)),
                },
              ]
            : [
                {
                  label: 'Make it go by keys',
                  disabled: !now,
                  onPick: () =>
                    now &&
                    edit(`set a key of ${name}`, (all) =>
                      putAt(all, curve.where, {
                        moves: 'keys',
                        keys: [{ frame, value: plainOf(now, []) }],
                      }),
                    ),
                },
              ]
        }
      />
    </li>
  )
}

/** Numbers as a recipe writes them, like the keys that are there; a colour as its hex. */
function plainOf(numbers: number[], keys: Key[]): Plain {
  const neat = numbers.map((number) => Math.round(number * 1000) / 1000)
  if (typeof keys[0]?.value === 'string' || numbers.length === 3) {
    return hexOfLight(numbers)
  }
  return neat.length === 2 ? [neat[0] ?? 0, neat[1] ?? 0] : (neat[0] ?? 0)
}

function alike(copied: Key[], keys: Key[]): boolean {
  const sort = (key?: Key) => (Array.isArray(key?.value) ? 'pair' : typeof key?.value)
  return copied.length > 0 && sort(copied[0]) === sort(keys[0])
}
