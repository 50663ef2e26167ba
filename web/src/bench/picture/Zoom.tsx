import { numberText } from '../../ui/numbers'
import { useBenchParts } from '../editing/store'

const LARGER = Math.SQRT2

/** How large the picture is shown: fitted in, in its true px, or anything between and beyond. */
export function Zoom({ now }: { now: number }) {
  const { zoom, set } = useBenchParts('zoom', 'set')
  const to = (next: number) => set({ zoom: Math.min(8, Math.max(0.1, next)) })
  const button = 'h-6 min-w-6 rounded-full hover:bg-raised'
  return (
    <fieldset aria-label="How large the picture is shown" className="ml-2 flex items-center">
      <button
        type="button"
        aria-label="Show smaller"
        onClick={() => to(now / LARGER)}
        className={button}
      >
        −
      </button>
      <button
        type="button"
        aria-pressed={zoom === undefined}
        title="Fit it in, or show its true px"
        onClick={() => set({ zoom: zoom === undefined ? 1 : undefined })}
        className={`${button} w-20`}
      >
        {zoom === undefined && 'Fit '}
        {numberText(100 * now)} %
      </button>
      <button
        type="button"
        aria-label="Show larger"
        onClick={() => to(now * LARGER)}
        className={button}
      >
        +
      </button>
    </fieldset>
  )
}
