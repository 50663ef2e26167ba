import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, type Schemas } from '../api/client'
import { readiness, renders as rendersQuery } from '../api/queries'
import { TopBar } from '../TopBar'
import { Empty, Failed, Loading } from '../ui/States'
import { RenderCard } from './RenderCard'
import { RenderResult } from './RenderResult'

/** Every render: what waits, what runs, and what is done. */
export function Renders() {
  const queries = useQueryClient()
  const renders = useQuery(rendersQuery())
  const ready = useQuery(readiness)
  const [picked, setPicked] = useState<string>()
  const chosen = renders.data?.find((render) => render.id === picked) ?? renders.data?.[0]
  const waits = renders.data?.some(({ state }) => state === 'queued' || state === 'running')
  const nobodyWorks = waits && ready.data?.workers === 0
  const refresh = () => queries.invalidateQueries({ queryKey: ['renders'] })
  const byId = (render: Schemas['RenderLine']) => ({ params: { path: { render_id: render.id } } })
  const cancel = useMutation({
    mutationFn: (render: Schemas['RenderLine']) =>
      api.POST('/api/v1/renders/{render_id}/cancel', byId(render)),
    onSuccess: refresh,
  })
  const retry = useMutation({
    mutationFn: (render: Schemas['RenderLine']) =>
      api.POST('/api/v1/renders/{render_id}/retry', byId(render)),
    onSuccess: refresh,
  })

  return (
    <div className="flex h-full flex-col">
      <TopBar />
      <main className="grid min-h-0 grow grid-cols-1 overflow-y-auto wide:grid-cols-[440px_minmax(0,1fr)] wide:overflow-hidden">
        <h1 className="sr-only">Renders</h1>
        <div className="overflow-y-auto border-r border-line p-4">
          {renders.isPending && <Loading what="your renders" />}
          {renders.isError && (
            <Failed error={renders.error} onRetry={() => void renders.refetch()} />
          )}
          {renders.data?.length === 0 && (
            <Empty title="No renders yet">
              <p>Open a shot and press Render. You can watch it here, frame by frame.</p>
            </Empty>
          )}
          {nobodyWorks && (
            <p
              role="status"
              className="mb-3 rounded border border-line px-3 py-2 text-sm text-amber"
            >
              No worker is heard of. Renders go on by themselves once one runs.
            </p>
          )}
          <ul className="grid gap-2.5">
            {renders.data?.map((render) => (
              <RenderCard
                key={render.id}
                render={render}
                isChosen={render.id === chosen?.id}
                onChoose={() => setPicked(render.id)}
                onCancel={() => cancel.mutate(render)}
                onRetry={() => retry.mutate(render)}
              />
            ))}
          </ul>
        </div>
        {chosen && <RenderResult key={chosen.id} render={chosen} />}
      </main>
    </div>
  )
}
