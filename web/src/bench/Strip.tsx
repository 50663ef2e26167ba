import { useQuery } from '@tanstack/react-query'
import { Fragment, useState } from 'react'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { addLayer } from '../recipe/edits'
import type { KindEntry } from '../recipe/types'
import { Menu } from '../ui/Menu'
import { BitmapCanvas, TILE } from './BitmapCanvas'
import { ElementDialog } from './ElementDialog'
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
  const [choosing, setChoosing] = useState(false)
  if (!recipe || !catalogue.data) return null

  return (
    <section
      aria-label="Layers"
      className="flex items-start gap-3 border-b border-line pt-2 pr-4 pb-2"
    >
      <div className="flex min-w-0 grow items-start gap-1.5 overflow-x-auto py-0.5 pl-4">
        {recipe.layers.map((layer, i) => (
          <Fragment key={layer.id}>
            {i > 0 && <Operator layer={layer} />}
            <LayerTile layer={layer} isChosen={layer.id === chosen} />
          </Fragment>
        ))}
      </div>
      <Menu
        trigger={
          <button
            type="button"
            className="mt-[5px] h-[70px] w-[76px] shrink-0 rounded-md border border-line border-dashed text-sm text-quiet hover:bg-panel hover:text-text"
          >
            New layer
          </button>
        }
        items={byFamily(catalogue.data.sources).map((source) => ({
          label: source.title,
          under: source.family,
          says: source.help,
          onPick: () => {
            if (source.name === 'element') return setChoosing(true)
            const [next, id] = addLayer(recipe, source)
            change(`add ${source.title.toLowerCase()}`, next)
            setBench({ chosen: id })
          },
        }))}
      />
      <ElementDialog open={choosing} onClose={() => setChoosing(false)} />
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

const FAMILIES = ['energy', 'flare', 'layers']

function byFamily(sources: KindEntry[]): KindEntry[] {
  const place = (source: KindEntry) => FAMILIES.indexOf(source.family)
  return [...sources].sort((a, b) => place(a) - place(b))
}
