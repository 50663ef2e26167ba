import { useDocument } from '../../document/document'
import type { Where } from '../../recipe/where'
import { numberText } from '../../ui/numbers'
import { useBench } from '../editing/store'
import { useCurve } from '../looking/useCurves'
import { CurveLine, valueNow } from './CurveLine'

/** What a moving value is over the shot, as small as it is live, and what it is now. */
export function ValueGraph({ where, unit }: { where: Where; unit: string }) {
  const recipe = useDocument((store) => store.recipe)
  const frame = useBench((store) => store.frame)
  const curve = useCurve(where)
  if (!recipe || !curve) return null
  const { first, last } = recipe.canvas
  const length = last - first + 1
  const isColour = curve.values[0]?.length === 3
  const all = curve.values.flat()
  const now = valueNow(curve, frame)?.map(numberText).join(', ')
  return (
    <figure className="grid gap-1">
      <div className="relative h-14 overflow-hidden rounded-lg bg-ground">
        <CurveLine curve={curve} first={first} length={length} />
        <span
          aria-hidden
          className="absolute inset-y-0 w-px bg-text"
          style={{ left: `${(100 * (frame - first + 0.5)) / length}%` }}
        />
      </div>
      {!isColour && (
        <figcaption className="flex justify-between text-xs text-quiet">
          <span>
            from {numberText(Math.min(...all))} to {numberText(Math.max(...all))} {unit}
          </span>
          <span>
            now {now} {unit}
          </span>
        </figcaption>
      )}
    </figure>
  )
}
