import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { useParams } from 'react-router'
import { shot as shotQuery } from '../api/queries'
import { useDocument } from '../document/document'
import { resume } from '../document/saving'
import { catalogue as catalogueQuery } from '../recipe/asking'
import { tellingFrame } from '../recipe/frames'
import { Failed, Loading } from '../ui/States'
import { BenchTop } from './BenchTop'
import { RecipePanel } from './cards/RecipePanel'
import { useBench } from './editing/store'
import { useLooking } from './looking/useLooking'
import { Picture } from './picture/Picture'
import { Ribbon } from './ribbon/Ribbon'
import { Strip } from './strip/Strip'
import { useShortcuts } from './useShortcuts'

/** Where a recipe is made. */
export function Bench() {
  const { shotId = '' } = useParams()
  const shot = useQuery(shotQuery(shotId))
  const unsaved = useQuery({
    queryKey: ['unsaved', shotId],
    queryFn: async () => {
      return await resume(shot.data as NonNullable<typeof shot.data>)
    },
    enabled: shot.data !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  })
  const catalogue = useQuery(catalogueQuery)
  const open = useDocument((store) => store.open)
  const close = useDocument((store) => store.close)
  const openId = useDocument((store) => store.shotId)
  const setBench = useBench((store) => store.set)

  useEffect(() => {
    if (!shot.data || unsaved.data === undefined) return
    open(shot.data)
    const recipe = useDocument.getState().recipe
    const layer = recipe?.layers[0]
    setBench({
      frame: recipe ? tellingFrame(recipe) : shot.data.first,
      playing: false,
      alone: [],
      zoom: undefined,
      kept: undefined,
      comparing: 'off',
      drawing: undefined,
      chosen: layer?.id,
      marked: [],
      view: {
        background: shot.data.plate ? 'plate' : 'black',
        channel: 'picture',
        exposure: 0,
        clipping: false,
      },
      card: 'source',
      range: undefined,
      shownFrames: undefined,
      late: 0,
    })
    return close
  }, [shot.data, unsaved.data, open, close, setBench])

  const error = shot.error ?? catalogue.error
  if (error) {
    return (
      <Failed
        error={error}
        onRetry={() => {
          void shot.refetch()
          void catalogue.refetch()
        }}
      />
    )
  }
  if (!shot.data || !catalogue.data || openId !== shotId) return <Loading what="the shot" />
  return <OpenBench hasPlate={shot.data.plate !== null} />
}

function OpenBench({ hasPlate }: { hasPlate: boolean }) {
  const { play, whole, areaRef, pictureSize, wanted } = useLooking()
  useShortcuts(play)
  return (
    <div className="flex h-full flex-col overflow-x-hidden overflow-y-auto wide:grid wide:grid-cols-[minmax(0,1fr)] wide:grid-rows-[auto_auto_minmax(0,1fr)] wide:overflow-hidden">
      <BenchTop onPlay={play} />
      <Strip />
      <div className="contents wide:grid wide:min-h-0 wide:grid-cols-[minmax(0,1fr)_396px]">
        <main className="contents wide:flex wide:min-h-0 wide:min-w-0 wide:flex-col wide:px-4 wide:pt-1.5 wide:pb-2">
          <Picture
            areaRef={areaRef}
            size={pictureSize}
            hasPlate={hasPlate}
            wanted={wanted}
            onWhole={whole}
          />
          <Ribbon onPlay={play} />
        </main>
        <RecipePanel />
      </div>
    </div>
  )
}
