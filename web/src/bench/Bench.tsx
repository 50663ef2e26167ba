import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { useParams } from 'react-router'
import { catalogue as catalogueQuery, shot as shotQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { tellingFrame } from '../recipe/frames'
import { Failed, Loading } from '../ui/States'
import { BenchTop } from './BenchTop'
import { Picture } from './Picture'
import { RecipePanel } from './RecipePanel'
import { Ribbon } from './Ribbon'
import { StaleDialog } from './StaleDialog'
import { Strip } from './Strip'
import { useBench } from './store'
import { useLooking } from './useLooking'
import { useShortcuts } from './useShortcuts'

/** Where a recipe is made. */
export function Bench() {
  const { shotId = '' } = useParams()
  const shot = useQuery(shotQuery(shotId))
  const catalogue = useQuery(catalogueQuery)
  const open = useDocument((store) => store.open)
  const close = useDocument((store) => store.close)
  const openId = useDocument((store) => store.shotId)
  const setBench = useBench((store) => store.set)

  useEffect(() => {
    if (!shot.data) return
    open(shot.data)
    const recipe = useDocument.getState().recipe
    const layer = recipe?.layers[0]
    setBench({
      frame: recipe ? tellingFrame(recipe) : shot.data.first,
      playing: false,
      zoom: undefined,
      kept: undefined,
      comparing: 'off',
      drawing: undefined,
      chosen: layer?.id,
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
  }, [shot.data, open, close, setBench])

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
  const { play, areaRef, pictureSize } = useLooking()
  useShortcuts(play)
  return (
    <div className="grid h-full min-w-[1000px] grid-cols-[minmax(0,1fr)] grid-rows-[44px_auto_minmax(0,1fr)]">
      <BenchTop onPlay={play} />
      <Strip />
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_396px]">
        <main className="flex min-h-0 min-w-0 flex-col px-4 pt-1.5 pb-2">
          <Picture areaRef={areaRef} size={pictureSize} hasPlate={hasPlate} />
          <Ribbon onPlay={play} />
        </main>
        <RecipePanel />
      </div>
      <StaleDialog />
    </div>
  )
}
