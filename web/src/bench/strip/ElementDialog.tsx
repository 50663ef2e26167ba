import { useMutation, useQuery } from '@tanstack/react-query'
import { api, got, type Schemas } from '../../api/client'
import { shots as shotsQuery } from '../../api/queries'
import { useDocument } from '../../document/document'
import { Dialog } from '../../ui/Dialog'
import { Failed, Loading } from '../../ui/States'
import { make } from '../editing/make'
import { useBench } from '../editing/store'

/** Which other shot to place in this one; its recipe is kept as it is now. */
export function ElementDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const shotId = useDocument((store) => store.shotId)
  const setBench = useBench((store) => store.set)
  const shots = useQuery({ ...shotsQuery, enabled: open })
  const place = useMutation({
    mutationFn: async (line: Schemas['ShotLine']) => {
      const shot = await got(
        api.GET('/api/v1/shots/{shot_id}', { params: { path: { shot_id: line.id } } }),
      )
      const { name, id, revision, recipe } = shot
      return make(`add ${name}`, { does: 'place an element', name, shot: id, revision, recipe })
    },
    onSuccess: (layer) => {
      if (layer) setBench({ chosen: layer })
      onClose()
    },
  })
  const others = shots.data?.filter((shot) => shot.id !== shotId) ?? []

  return (
    <Dialog
      title="Place another shot"
      says="Its recipe is kept as it is now. What is changed there later changes nothing here until you ask for it."
      open={open}
      onClose={onClose}
    >
      {shots.isPending && <Loading what="your shots" />}
      {shots.isError && <Failed error={shots.error} onRetry={() => void shots.refetch()} />}
      {place.isError && <p className="mb-2 text-sm text-coral">{place.error.message}</p>}
      {shots.data && others.length === 0 && (
        <p className="text-sm text-quiet">There is no other shot yet.</p>
      )}
      <ul className="grid max-h-[50vh] grid-cols-2 gap-3 overflow-y-auto">
        {others.map((shot) => (
          <li key={shot.id}>
            <button
              type="button"
              disabled={place.isPending}
              onClick={() => place.mutate(shot)}
              className="w-full overflow-hidden rounded-lg bg-black text-left hover:bg-raised"
            >
              <img
                src={`/api/v1/preview/thumbnails/${shot.id}.jpg?revision=${shot.revision}`}
                alt=""
                className="aspect-video w-full object-contain"
              />
              <span className="block truncate px-2 py-1 text-sm">{shot.name}</span>
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  )
}
