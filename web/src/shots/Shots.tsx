import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, got, type Schemas } from '../api/client'
import { shots as shotsQuery } from '../api/queries'
import { TopBar } from '../TopBar'
import { Button } from '../ui/Button'
import { useNotice } from '../ui/Notice'
import { Empty, Failed, Loading } from '../ui/States'
import { ShotCard } from './ShotCard'
import { Starters } from './Starters'

type ShotLine = Schemas['ShotLine']

/** Every shot of the person. */
export function Shots() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const shots = useQuery(shotsQuery)
  const tell = useNotice((store) => store.tell)
  const refresh = () => queries.invalidateQueries({ queryKey: shotsQuery.queryKey })
  const byId = (shot: ShotLine) => ({ params: { path: { shot_id: shot.id } } })

  const create = useMutation({
    mutationFn: () => got(api.POST('/api/v1/shots', { body: {} })),
    onSuccess: (shot) => navigate(`/shots/${shot.id}`),
  })
  const duplicate = useMutation({
    mutationFn: (shot: ShotLine) => api.POST('/api/v1/shots/{shot_id}/duplicate', byId(shot)),
    onSuccess: refresh,
  })
  const restore = useMutation({
    mutationFn: (shot: ShotLine) => api.POST('/api/v1/shots/{shot_id}/restore', byId(shot)),
    onSuccess: refresh,
  })
  const remove = useMutation({
    mutationFn: (shot: ShotLine) => api.DELETE('/api/v1/shots/{shot_id}', byId(shot)),
    onSuccess: (_, shot) => {
      void refresh()
      tell({
        says: `Deleted ${shot.name}.`,
        action: { label: 'Undo', run: () => restore.mutate(shot) },
      })
    },
  })

  return (
    <div className="flex h-full flex-col">
      <TopBar>
        <Button look="main" disabled={create.isPending} onClick={() => create.mutate()}>
          New shot
        </Button>
      </TopBar>
      <main className="min-h-0 grow overflow-y-auto p-6">
        <h1 className="mb-3 text-lg font-semibold">Shots</h1>
        {shots.isPending && <Loading what="your shots" />}
        {shots.isError && <Failed error={shots.error} onRetry={() => void shots.refetch()} />}
        {shots.data?.length === 0 && (
          <Empty title="No shots yet">
            <p>A shot is a canvas with one element on it. It begins as a strike of lightning.</p>
            <Button look="main" className="mt-4" onClick={() => create.mutate()}>
              New shot
            </Button>
          </Empty>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-5">
          {shots.data?.map((shot) => (
            <ShotCard
              key={shot.id}
              shot={shot}
              onDuplicate={() => duplicate.mutate(shot)}
              onDelete={() => remove.mutate(shot)}
            />
          ))}
        </ul>
        <Starters />
      </main>
    </div>
  )
}
