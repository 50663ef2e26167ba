import { useMutation } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { api, got } from '../../api/client'
import { useDocument, useDocumentParts } from '../../document/document'
import { type Canvas, complete, type Recipe } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { SelectField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { make } from '../editing/make'

const RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60]
/** Rates at which timecode may drop numbers (SMPTE ST 12-1). */
const DROPS = [29.97, 59.94]
const COVERS = [
  { value: 'as drawn', says: 'As drawn: what covers and what shines stay apart' },
  { value: 'from light', says: 'From light: cover is at least the brightest channel' },
  { value: 'solid', says: 'Solid, on black' },
]

const LEAST_PX = 16
const MOST_PX = 16384
const MOST_AREA = 67_108_864
const MOST_FRAMES = 100_000
const LAST_FRAME = 9_000_000

/** How long a side may be beside another, with overscan on both sides of both. */
function mostPx(other: number, overscan: number): number {
  return Math.min(MOST_PX, Math.floor(MOST_AREA / (other + 2 * overscan)) - 2 * overscan)
}

/** Where the shot begins, moved with all that is in it. */
function Begins({ first, most }: { first: number; most: number }) {
  const [moved, setMoved] = useState<number>()
  const begins = moved ?? first
  return (
    <div className="flex items-end gap-3">
      <NumberField
        label="Or everything begins at"
        value={begins}
        least={0}
        most={most}
        onChange={(next) => setMoved(Math.round(next))}
      />
      <Button
        onClick={async () => {
          if (begins !== first)
            await make(`begin at ${begins}`, { does: 'retime', later: begins - first })
          setMoved(undefined)
        }}
      >
        Move all of it
      </Button>
    </div>
  )
}

/** What a shot is made on: its canvas, its time, its seed, and what becomes of cover. */
export function ShotDialog(props: { open: boolean; onClose(): void; onNamed(): void }) {
  const { open, onClose, onNamed } = props
  const { recipe, change, settle } = useDocumentParts('recipe', 'change', 'settle')
  const [before, setBefore] = useState<Canvas>()
  const fit = useMutation({
    mutationFn: async (from: Canvas) => {
      const now = useDocument.getState().recipe as Recipe
      const { width, height } = now.canvas
      const smaller = { ...now, canvas: { ...now.canvas, width: from.width, height: from.height } }
      const body = { recipe: { ...smaller }, width, height }
      const { recipe: made } = await got(api.POST('/api/v1/recipes/fitted', { body }))
      if (useDocument.getState().recipe === now) change('fit all places', complete(made))
      setBefore(undefined)
    },
  })
  useEffect(() => {
    if (!open) setBefore(undefined)
  }, [open])
  if (!recipe) return null
  const { width, height, rate, first, last, overscan = 0 } = recipe.canvas

  function put(says: string, canvas: Partial<Canvas>) {
    if (!recipe) return
    const next = { ...recipe.canvas, ...canvas }
    const loop = Math.min(recipe.loop ?? 0, next.last - next.first + 1)
    change(`change the ${says}`, { ...recipe, canvas: next, ...(recipe.loop && { loop }) })
    settle()
  }
  function resize(says: string, wide: number, high: number) {
    setBefore(before ?? recipe?.canvas)
    put(says, { width: wide, height: high })
  }

  return (
    <Dialog title="Shot" open={open} onClose={onClose}>
      <div className="grid gap-4">
        <div className="flex flex-wrap gap-6">
          <NumberField
            label="Width"
            unit="px"
            value={width}
            least={LEAST_PX}
            most={mostPx(height, overscan)}
            onChange={(next) => resize('width', Math.round(next), height)}
          />
          <NumberField
            label="Height"
            unit="px"
            value={height}
            least={LEAST_PX}
            most={mostPx(width, overscan)}
            onChange={(next) => resize('height', width, Math.round(next))}
          />
        </div>
        {before && (
          <div role="status" className="flex items-center gap-3 text-sm text-quiet">
            <p>
              Everything stays at its px. Or fit all places from {before.width} × {before.height} to
              the new size.
            </p>
            <Button disabled={fit.isPending} onClick={() => fit.mutate(before)}>
              Fit places
            </Button>
          </div>
        )}
        <div className="flex flex-wrap gap-6">
          <NumberField
            label="First frame"
            value={first}
            least={Math.max(0, last - MOST_FRAMES + 1)}
            most={last}
            onChange={(next) => put('first frame', { first: Math.round(next) })}
          />
          <NumberField
            label="Last frame"
            value={last}
            least={first}
            most={Math.min(LAST_FRAME, first + MOST_FRAMES - 1)}
            onChange={(next) => put('last frame', { last: Math.round(next) })}
          />
        </div>
        <Begins first={first} most={LAST_FRAME - (last - first)} />
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
          value={overscan}
          least={0}
          most={4096}
          onChange={(next) => put('overscan', { overscan: Math.round(next) })}
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
          least={0}
          most={2 ** 31 - 1}
          onChange={(next) => change('change the seed', { ...recipe, seed: Math.round(next) })}
        />
        <Button look="quiet" className="-ml-2 w-fit" onClick={onNamed}>
          Its points, tracks, paths, cameras …
        </Button>
      </div>
    </Dialog>
  )
}
