import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, got, type Schemas } from '../../api/client'
import { starters as startersQuery } from '../../api/queries'
import { useDocument } from '../../document/document'
import type { RecipeChange } from '../../recipe/asking'
import {
  catalogue as catalogueQuery,
  changed as changedQuery,
  looks as looksQuery,
} from '../../recipe/asking'
import { complete, type KindEntry, type Recipe } from '../../recipe/types'
import { pictureOf } from '../../shots/Starters'
import { byFrame, MovingPicture } from '../../ui/MovingPicture'
import { type Pick, Picker, Picks } from '../../ui/Picker'
import { make } from '../editing/make'
import { useBenchParts } from '../editing/store'
import { ElementDialog } from './ElementDialog'

const MOMENTS = 8
const WIDTH = 200

/** Adds a layer: of a source as it would come, or all of a starter in a group. */
export function LayerPicker() {
  const recipe = useDocument((store) => store.recipe)
  const catalogue = useQuery(catalogueQuery).data
  const [placing, setPlacing] = useState(false)
  if (!recipe || !catalogue) return null
  return (
    <>
      <Picker
        what="a layer"
        trigger={
          <button
            type="button"
            className="mt-[5px] h-[70px] w-[76px] shrink-0 rounded-md border border-line border-dashed text-sm text-quiet hover:bg-panel hover:text-text"
          >
            New layer
          </button>
        }
      >
        {(close) => (
          <Sources
            recipe={recipe}
            catalogue={catalogue}
            onDone={close}
            onPlace={() => {
              close()
              setPlacing(true)
            }}
          />
        )}
      </Picker>
      <ElementDialog open={placing} onClose={() => setPlacing(false)} />
    </>
  )
}

interface SourcesProps {
  recipe: Recipe
  catalogue: Schemas['Catalogue']
  onDone(): void
  onPlace(): void
}

function Sources({ recipe, catalogue, onDone, onPlace }: SourcesProps) {
  const { chosen, set } = useBenchParts('chosen', 'set')
  const starters = useQuery(startersQuery).data ?? []
  const take = useMutation({
    mutationFn: async (id: string) => {
      const starter = await got(
        api.GET('/api/v1/starters/{starter_id}', { params: { path: { starter_id: id } } }),
      )
      return make(`add ${starter.name}`, { does: 'merge', recipe: starter.recipe })
    },
    onSuccess: (group) => {
      if (group) set({ chosen: group })
      onDone()
    },
  })
  const of = recipe.layers.find((layer) => layer.id === chosen)?.id

  const sources: Pick[] = catalogue.sources.map((kind) => ({
    title: kind.title,
    under: kind.family,
    says: kind.help,
    picture: ['group', 'element'].includes(kind.name) ? undefined : (
      <SourcePicture recipe={recipe} kind={kind} of={of} />
    ),
    onPick: () => {
      if (kind.name === 'element') return onPlace()
      onDone()
      void make(`add ${kind.title.toLowerCase()}`, added(kind, of)).then(
        (chosen) => chosen && set({ chosen }),
      )
    },
  }))
  const ready: Pick[] = starters.map((starter) => ({
    title: starter.name,
    under: `${starter.family}, ready`,
    says: 'All its layers, in a group.',
    picture: <MovingPicture {...byFrame(pictureOf(starter), starter.first, starter.last)} />,
    onPick: () => take.mutate(starter.id),
  }))
  return (
    <>
      <Picks what="a layer" picks={[...sources, ...ready]} />
      {take.isError && <p className="pt-2 text-sm text-coral">{take.error.message}</p>}
    </>
  )
}

function added(kind: KindEntry, of?: string): RecipeChange {
  return { does: 'add a layer', kind: kind.name, of }
}

/** A source as it would be in this recipe, by itself, over the shot's time. */
function SourcePicture({ recipe, kind, of }: { recipe: Recipe; kind: KindEntry; of?: string }) {
  const shot = useDocument((store) => store.shotId) ?? ''
  const tried = useQuery(changedQuery(recipe, added(kind, of))).data
  const { first, last, width } = recipe.canvas
  const scale = Math.min(1, WIDTH / width)
  const wanted = Array.from({ length: MOMENTS }, (_, i) => ({
    frame: Math.round(first + ((i + 0.5) * (last - first)) / MOMENTS),
    scale,
    layer: tried?.made,
  }))
  const pictures = useQuery({
    ...looksQuery(tried ? complete(tried.recipe) : recipe, shot, wanted),
    enabled: tried !== undefined,
  }).data
  return (
    <MovingPicture
      still={pictures?.[MOMENTS / 4]}
      at={(share) => pictures?.[Math.floor(share * MOMENTS)]}
    />
  )
}
