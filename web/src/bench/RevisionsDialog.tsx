import { useMutation, useQuery } from '@tanstack/react-query'
import { api, got } from '../api/client'
import { revisions as revisionsQuery } from '../api/queries'
import { useDocumentParts } from '../recipe/document'
import { complete } from '../recipe/types'
import { Dialog } from '../ui/Dialog'
import { Failed, Loading } from '../ui/States'

/** What was saved of the shot, the newest first; pressing one brings it back as a new step. */
export function RevisionsDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const { shotId = '', revision, change } = useDocumentParts('shotId', 'revision', 'change')
  const revisions = useQuery({ ...revisionsQuery(shotId, revision ?? 0), enabled: open })
  const restore = useMutation({
    mutationFn: (number: number) =>
      got(
        api.GET('/api/v1/shots/{shot_id}/revisions/{number}', {
          params: { path: { shot_id: shotId, number } },
        }),
      ),
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
      {restore.isError && <p className="mb-2 text-sm text-coral">{restore.error.message}</p>}
      <ul className="grid max-h-[55vh] grid-cols-2 gap-3 overflow-y-auto">
        {revisions.data?.map((line) => (
          <li key={line.number}>
            <button
              type="button"
              disabled={restore.isPending || line.number === revision}
              onClick={() => restore.mutate(line.number)}
              className="w-full overflow-hidden rounded-lg bg-black text-left hover:bg-raised disabled:opacity-60"
            >
              <img
                src={`/api/v1/preview/thumbnails/${shotId}/${line.number}.jpg`}
                alt=""
                loading="lazy"
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
