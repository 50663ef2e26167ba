import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { hexOfLight, lightOf } from '../../recipe/colour'
import { type Piece, type Setting, valueIn } from '../../recipe/types'
import { numberText } from '../../ui/numbers'
import { numberIn, type PictureProps } from './pieces'

const COLOUR = { name: 'colour', default: '#ffffff' } as Setting
const STEP = 1

/** Colours along their brightness, each with a handle below; mixed in linear light between. */
export function RampPicture(props: PictureProps & { isSmall?: boolean }) {
  const { pieces, along, up, chosen, label, isSmall, onChoose, onChange, onAdd, onSettle } = props
  const bar = useRef<HTMLDivElement>(null)
  const most = Math.max(100, ...pieces.map((piece) => numberIn(piece, along)))
  const stops = pieces
    .map((piece) => ({ at: numberIn(piece, along), colour: shown(piece, up) }))
    .sort((a, b) => a.at - b.at)
  const gradient = stops.map(({ at, colour }) => `${colour} ${(100 * at) / most}%`)
  const background = `linear-gradient(in srgb-linear to right, ${gradient.join(', ')}${stops.length === 1 ? `, ${stops[0]?.colour}` : ''})`
  if (isSmall) return <span className="block h-full w-full" style={{ background }} />

  const levelAt = (x: number) => {
    const box = bar.current?.getBoundingClientRect()
    if (!box) return 0
    return Math.round(Math.min(1, Math.max(0, (x - box.left) / box.width)) * most)
  }
  function move(i: number, level: number, gesture?: string) {
    const held = Math.min(along.most ?? level, Math.max(along.least ?? level, level))
    const piece = pieces[i]
    if (piece) onChange(pieces.with(i, { ...piece, [along.name]: held }), gesture)
  }
  function add(event: PointerEvent) {
    const level = levelAt(event.clientX)
    const nearest = [...pieces].sort(
      (a, b) => Math.abs(numberIn(a, along) - level) - Math.abs(numberIn(b, along) - level),
    )[0]
    onAdd({ ...nearest, [along.name]: level })
  }
  function press(event: KeyboardEvent, i: number) {
    const piece = pieces[i]
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key]
    if (by && piece) {
      event.preventDefault()
      move(i, numberIn(piece, along) + (event.shiftKey ? 10 * by : by))
    } else if (event.key === 'Delete' && pieces.length > 1) {
      event.preventDefault()
      onChange(pieces.filter((_, k) => k !== i))
    }
  }

  return (
    <div ref={bar} className="relative mx-2 h-14">
      <div
        className="h-8 cursor-copy rounded-md border border-line"
        style={{ background }}
        onPointerDown={add}
      />
      {pieces.map((piece, i) => (
        <button
          // biome-ignore lint/suspicious/noArrayIndexKey: a stop is its place in the list
          key={i}
          type="button"
          data-arrows
          aria-pressed={i === chosen}
          aria-label={`Stop of ${label} at ${numberText(numberIn(piece, along))} ${along.unit}`}
          onFocus={() => onChoose(i)}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId)
            onChoose(i)
          }}
          onPointerMove={(event) =>
            event.buttons === 1 && move(i, levelAt(event.clientX), `stop ${i}`)
          }
          onPointerUp={onSettle}
          onKeyDown={(event) => press(event, i)}
          className={`absolute top-9 size-5 -translate-x-1/2 touch-none rounded-full border-2 ${i === chosen ? 'border-accent' : 'border-faint'}`}
          style={{
            left: `${(100 * numberIn(piece, along)) / most}%`,
            background: String(valueIn(piece, COLOUR)),
          }}
        />
      ))}
    </div>
  )
}

/** A stop's colour with its light, as far as a screen can show it. */
function shown(piece: Piece, light: Setting | undefined): string {
  const gain = light ? 2 ** numberIn(piece, light) : 1
  return hexOfLight(lightOf(String(valueIn(piece, COLOUR))).map((part) => part * gain))
}
