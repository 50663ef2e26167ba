import { Fragment } from 'react'
import { useDocument } from '../../document/document'
import { RESULT } from '../../recipe/edits'
import { useBench, useBenchParts } from '../editing/store'
import { ResultCanvas, TILE } from '../looking/BitmapCanvas'
import { LayerPicker } from './LayerPicker'
import { LayerTile } from './LayerTile'
import { Operator } from './Operator'

/** The layers from first to last, read as a sum. */
export function Strip() {
  const recipe = useDocument((store) => store.recipe)
  const chosen = useBench((store) => store.chosen)
  const setBench = useBench((store) => store.set)
  if (!recipe) return null

  return (
    <section
      aria-label="Layers"
      className="flex shrink-0 items-start gap-3 overflow-x-auto overscroll-x-contain border-b border-line pt-2 pr-4 pb-2"
    >
      <div className="flex min-w-44 grow items-start gap-1.5 overflow-x-auto overscroll-x-contain py-0.5 pl-4">
        <Sum of={null} />
      </div>
      <LayerPicker />
      <span aria-hidden className="self-center pb-5 text-xl text-quiet">
        =
      </span>
      <div className="shrink-0">
        <button
          type="button"
          aria-pressed={chosen === RESULT}
          onClick={() => setBench({ chosen: RESULT })}
          className={`block rounded-lg p-[3px] ${chosen === RESULT ? 'ring-2 ring-accent' : 'hover:ring-1 hover:ring-faint'}`}
        >
          <ResultCanvas label="Result" className={TILE} width={248} />
        </button>
        <p className="mt-0.5 flex justify-between gap-1 pl-1 text-sm">
          Result
          {recipe.finish.length > 0 && (
            <span className="text-quiet">
              {recipe.finish.length === 1 ? '1 step' : `${recipe.finish.length} steps`}
            </span>
          )}
        </p>
      </div>
    </section>
  )
}

/** Layers that mix with one another; those of an open group follow it in brackets. */
function Sum({ of }: { of: string | null }) {
  const recipe = useDocument((store) => store.recipe)
  const { chosen, closedGroups } = useBenchParts('chosen', 'closedGroups')
  const members = recipe?.layers.filter((layer) => (layer.within ?? null) === of) ?? []
  return members.map((layer, i) => {
    const isOpen = layer.source.kind === 'group' && !closedGroups.includes(layer.id)
    const isFilled = recipe?.layers.some((other) => other.within === layer.id)
    return (
      <Fragment key={layer.id}>
        {i > 0 && <Operator layer={layer} />}
        <LayerTile layer={layer} isChosen={layer.id === chosen} />
        {isOpen && isFilled && (
          <fieldset
            aria-label={`Layers in ${layer.name}`}
            className="flex items-start gap-1.5 rounded-xl bg-panel px-2"
          >
            <Sum of={layer.id} />
          </fieldset>
        )}
      </Fragment>
    )
  })
}
