import { useDocumentParts } from '../../document/document'
import { withUnit } from '../../recipe/wording'
import { useBenchParts } from '../editing/store'
import { usePictures } from '../looking/pictures'

const LEAST_CLIPPED = 0.0005
const LEAST_FOLDED = 0.001
/** A sixteenth of the canvas's width, to a round number of px. */
const SHARE = 1 / 16

/** What is to be warned of in the picture, each with what helps. */
export function Warned() {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  const { edges, clipped, above, beyond, edge, folded, foldAt } = usePictures(
    (store) => store.warnings,
  )
  const { view, playing, set } = useBenchParts('view', 'playing', 'set')
  if (!recipe || playing) return null
  const { canvas } = recipe
  const more = Math.max(10, Math.round((canvas.width * SHARE) / 10) * 10)
  const overscan = (canvas.overscan ?? 0) + more
  const fits = view.exposure - above
  const button = 'rounded-full px-1.5 py-0.5 text-text hover:bg-raised'
  return (
    <>
      {edges.length > 0 && (
        <span className="wide:whitespace-nowrap">
          <span className="text-amber">Cut off at the {inWords(edges)}</span>
          <button
            type="button"
            onClick={() => change('add overscan', { ...recipe, canvas: { ...canvas, overscan } })}
            className={button}
          >
            Add {more} px of overscan
          </button>
        </span>
      )}
      {beyond.length > 0 && (
        <span
          className="wide:whitespace-nowrap text-amber"
          title="Nothing there looks broken; a mirror hides it best"
        >
          Bent past the plate at the {inWords(beyond)}: {edge === 'clear' ? 'nothing' : edge} shows
        </span>
      )}
      {folded > LEAST_FOLDED && (
        <span
          className="wide:whitespace-nowrap text-amber"
          title="Things are seen there twice and turned over. Bend less, or with larger shapes"
        >
          The plate folds over on {withUnit(100 * folded, '%')} of it, about {foldAt}
        </span>
      )}
      {clipped > LEAST_CLIPPED && (
        <span className="wide:whitespace-nowrap">
          <button
            type="button"
            aria-pressed={view.clipping}
            title="Stripes where light is beyond white"
            onClick={() => set({ view: { ...view, clipping: !view.clipping } })}
            className={`rounded-full px-1.5 py-0.5 hover:bg-raised ${view.clipping ? 'text-accent' : 'text-amber'}`}
          >
            {withUnit(100 * clipped, '%')} clips
          </button>
          <button
            type="button"
            title="Only the look changes, not the element"
            onClick={() => set({ view: { ...view, exposure: fits, clipping: false } })}
            className={button}
          >
            Look at {withUnit(fits, 'stops')}
          </button>
        </span>
      )}
    </>
  )
}

function inWords(edges: string[]): string {
  if (edges.length === 4) return 'edges'
  const last = edges.at(-1)
  const names = edges.length > 1 ? `${edges.slice(0, -1).join(', ')} and ${last}` : last
  return `${names} ${edges.length > 1 ? 'edges' : 'edge'}`
}
