import { useMutation, useQuery } from '@tanstack/react-query'
import { api, got } from '../../api/client'
import { revisions as revisionsQuery } from '../../api/queries'
import { useDocumentParts } from '../../document/document'
import { complete } from '../../recipe/types'
import { Dialog } from '../../ui/Dialog'
import { ListedPicture } from '../../ui/ListedPicture'
import { Failed, Loading } from '../../ui/States'
import { useBench } from '../editing/store'
import { pictureOf } from '../looking/bitmaps'
import { usePictures } from '../looking/pictures'

/** What was saved of the shot, the newest first; pressing one brings it back as a new step. */
export function RevisionsDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const { shotId = '', revision, change } = useDocumentParts('shotId', 'revision', 'change')
  const revisions = useQuery({ ...revisionsQuery(shotId, revision ?? 0), enabled: open })
  const read = (number: number) =>
    got(
      api.GET('/api/v1/shots/{shot_id}/revisions/{number}', {
        params: { path: { shot_id: shotId, number } },
      }),
    )
  /** The picture of a revision on the current frame, to compare the present one with it. */
  const compare = useMutation({
    mutationFn: async (number: number) => {
      const { frame, view, kept, set } = useBench.getState()
      const recipe = complete((await read(number)).recipe)
      const { scale } = usePictures.getState()
      const bitmap = await pictureOf({ shotId, recipe }, { frame, scale, ...view })
      kept?.bitmap.close()
      set({ kept: { bitmap, says: `revision ${number}` }, comparing: 'wipe' })
    },
    onSuccess: onClose,
  })
  const restore = useMutation({
    mutationFn: read,
    onSuccess: (old) => {
      change(`go back to revision ${old.number}`, complete(old.recipe))
      onClose()
    },
  })

  return (
    <Dialog
      title="What was saved"
      says="Going back to one is a step like any other: it can be undone, and nothing is lost."
      open={open}
      onClose={onClose}
    >
      {revisions.isPending && <Loading what="what was saved" />}
      {revisions.isError && (
        <Failed error={revisions.error} onRetry={() => void revisions.refetch()} />
      )}
      {[restore, compare].map(
        ({ error }) =>
          error && (
            <p key={error.message} className="mb-2 text-sm text-coral">
              {error.message}
            </p>
          ),
      )}
      <ul className="grid max-h-[55vh] grid-cols-2 gap-3 overflow-y-auto">
        {revisions.data?.map((line) => (
          <li key={line.number} className="relative">
            {line.number !== revision && (
              <button
                type="button"
                aria-label={`Compare with revision ${line.number}`}
                disabled={compare.isPending}
                onClick={() => compare.mutate(line.number)}
                className="absolute top-1.5 right-1.5 h-6 rounded-full bg-black/70 px-2 text-xs hover:bg-pressed"
              >
                Compare
              </button>
            )}
            <button
              type="button"
              disabled={restore.isPending || line.number === revision}
              onClick={() => restore.mutate(line.number)}
              className="w-full overflow-hidden rounded-lg bg-black text-left hover:bg-raised disabled:opacity-60"
            >
              <ListedPicture
                src={`/api/v1/preview/thumbnails/${shotId}/${line.number}.jpg`}
                className="aspect-video w-full object-contain"
              />
              <span className="block px-2 py-1 text-sm">
                Revision {line.number}
                {line.number === revision && ', this one'}
                <span className="block text-xs text-quiet">
                  {new Date(line.at).toLocaleString()}
                  {line.by && ` · ${line.by}`}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  )
}
