import { useDocument } from '../recipe/document'
import type { Canvas } from '../recipe/types'
import { Dialog } from '../ui/Dialog'
import { SelectField } from '../ui/Field'
import { NumberField } from '../ui/NumberField'

const RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60]
const COVERS = [
  { value: 'as drawn', says: 'As drawn: what covers and what shines stay apart' },
  { value: 'from light', says: 'From light: cover is at least the brightest channel' },
  { value: 'solid', says: 'Solid, on black' },
]

/** What a shot is made on: its canvas, its time, its seed, and what becomes of cover. */
export function ShotDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const { recipe, change, settle } = useDocument()
  if (!recipe) return null
  const { width, height, rate, first, last } = recipe.canvas

  function put(says: string, canvas: Partial<Canvas>) {
    if (!recipe) return
    change(`change the ${says}`, { ...recipe, canvas: { ...recipe.canvas, ...canvas } })
    settle()
  }
  const whole = (value: number, least: number, most: number) =>
    Math.min(most, Math.max(least, Math.round(value)))

  return (
    <Dialog title="Shot" open={open} onClose={onClose}>
      <div className="grid gap-4">
        <div className="flex gap-6">
          <NumberField
            label="Width"
            unit="px"
            value={width}
            onChange={(next) => put('width', { width: whole(next, 16, 16384) })}
          />
          <NumberField
            label="Height"
            unit="px"
            value={height}
            onChange={(next) => put('height', { height: whole(next, 16, 16384) })}
          />
        </div>
        <div className="flex gap-6">
          <NumberField
            label="First frame"
            value={first}
            onChange={(next) => put('first frame', { first: whole(next, 0, last) })}
          />
          <NumberField
            label="Last frame"
            value={last}
            onChange={(next) => put('last frame', { last: whole(next, first, 9_000_000) })}
          />
        </div>
        <SelectField
          label="Frames a second"
          value={rate}
          onChange={(event) => put('rate', { rate: Number(event.target.value) })}
        >
          {[...new Set([...RATES, rate])]
            .sort((a, b) => a - b)
            .map((known) => (
              <option key={known}>{known}</option>
            ))}
        </SelectField>
        <SelectField
          label="Cover at the output"
          value={recipe.cover}
          onChange={(event) => change('change the cover', { ...recipe, cover: event.target.value })}
        >
          {COVERS.map(({ value, says }) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </SelectField>
        <NumberField
          label="Seed of the whole shot"
          value={recipe.seed}
          onChange={(next) =>
            change('change the seed', { ...recipe, seed: whole(next, 0, 2 ** 31 - 1) })
          }
        />
      </div>
    </Dialog>
  )
}
