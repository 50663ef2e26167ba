import { useQuery } from '@tanstack/react-query'
import { Fragment } from 'react'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { addLayer } from '../recipe/edits'
import { Menu } from '../ui/Menu'
import { BitmapCanvas, TILE } from './BitmapCanvas'
import { LayerTile } from './LayerTile'
import { Operator } from './Operator'
import { usePictures } from './pictures'
import { useBench } from './store'

/** The layers from first to last, read as a sum. */
export function Strip() {
  const { recipe, change } = useDocument()
  const catalogue = useQuery(catalogueQuery)
  const result = usePictures((store) => store.result)
  const chosen = useBench((store) => store.chosen)
  const setBench = useBench((store) => store.set)
  if (!recipe || !catalogue.data) return null

  return (
    <section
      aria-label="Layers"
      className="flex items-start gap-3 overflow-x-auto border-b border-line px-4 pt-2.5 pb-2"
    >
      {recipe.layers.map((layer, i) => (
        <Fragment key={layer.id}>
          {i > 0 && <Operator layer={layer} />}
          <LayerTile layer={layer} isChosen={layer.id === chosen} />
        </Fragment>
      ))}
      <Menu
        trigger={
          <button
            type="button"
            className="mx-3 h-[70px] w-[84px] shrink-0 rounded-md border border-line border-dashed text-sm text-quiet hover:bg-panel hover:text-text"
          >
            New layer
          </button>
        }
        items={catalogue.data.sources.map((source) => ({
          label: source.title,
          says: source.help,
          onPick: () => {
            const [next, id] = addLayer(recipe, source)
            change(`add ${source.title.toLowerCase()}`, next)
            setBench({ chosen: id })
          },
        }))}
      />
      <span aria-hidden className="self-center pb-5 text-xl text-quiet">
        =
      </span>
      <figure className="shrink-0">
        <BitmapCanvas bitmap={result} label="Result" className={TILE} width={248} />
        <figcaption className="mt-1 text-sm">Result</figcaption>
      </figure>
    </section>
  )
}
