import { useDocumentParts } from '../recipe/document'
import type { Canvas } from '../recipe/types'
import { Dialog } from '../ui/Dialog'
import { SelectField } from '../ui/Field'
import { NumberField } from '../ui/NumberField'

const RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60]
/** Rates at which timecode may drop numbers (SMPTE ST 12-1). */
const DROPS = [29.97, 59.94]
const COVERS = [
  { value: 'as drawn', says: 'As drawn: what covers and what shines stay apart' },
  { value: 'from light', says: 'From light: cover is at least the brightest channel' },
  { value: 'solid', says: 'Solid, on black' },
]

/** What a shot is made on: its canvas, its time, its seed, and what becomes of cover. */
export function ShotDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const { recipe, change, settle } = useDocumentParts('recipe', 'change', 'settle')
  if (!recipe) return null
  const { width, height, rate, first, last } = recipe.canvas

  function put(says: string, canvas: Partial<Canvas>) {
    if (!recipe) return
    const next = { ...recipe.canvas, ...canvas }
    const loop = Math.min(recipe.loop ?? 0, next.last - next.first + 1)
    change(`change the ${says}`, { ...recipe, canvas: next, ...(recipe.loop && { loop }) })
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
          onChange={(event) => {
            const next = Number(event.target.value)
            put('rate', { rate: next, ...(!DROPS.includes(next) && { drop_frame: false }) })
          }}
        >
          {[...new Set([...RATES, rate])]
            .sort((a, b) => a - b)
            .map((known) => (
              <option key={known}>{known}</option>
            ))}
        </SelectField>
        {DROPS.includes(rate) && (
          <label className="flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={recipe.canvas.drop_frame ?? false}
              onChange={(event) => put('timecode', { drop_frame: event.target.checked })}
            />
            Timecode drops numbers to stay with the clock
          </label>
        )}
        <NumberField
          label="Overscan beyond each edge"
          unit="px"
          value={recipe.canvas.overscan ?? 0}
          onChange={(next) => put('overscan', { overscan: whole(next, 0, 4096) })}
        />
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
