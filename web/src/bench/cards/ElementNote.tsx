import { useMutation, useQuery } from '@tanstack/react-query'
import { api, got } from '../../api/client'
import { shots as shotsQuery } from '../../api/queries'
import { useDocumentParts } from '../../document/document'
import { changeElement } from '../../recipe/edits'

/** Which revision of another shot an element is, and a newer one if there is one. */
export function ElementNote({ name }: { name: string }) {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  const shots = useQuery(shotsQuery)
  const element = recipe?.elements?.find((known) => known.name === name)
  const shot = shots.data?.find((known) => known.id === element?.shot)
  const renew = useMutation({
    mutationFn: (id: string) =>
      got(api.GET('/api/v1/shots/{shot_id}', { params: { path: { shot_id: id } } })),
    onSuccess: (newest) =>
      recipe && change(`use the newest ${name}`, changeElement(recipe, name, newest)),
  })
  if (!element) return null
  const isNewer = shot !== undefined && shot.revision > (element.revision ?? 0)

  return (
    <p className="mt-2 text-sm text-quiet">
      {name} as it was at revision {element.revision}.
      {isNewer && (
        <>
          {' '}
          It is now at {shot.revision}.{' '}
          <button
            type="button"
            disabled={renew.isPending}
            onClick={() => renew.mutate(shot.id)}
            className="underline underline-offset-4 hover:text-text"
          >
            Use that one
          </button>
        </>
      )}
      {renew.isError && <span className="text-coral"> {renew.error.message}</span>}
    </p>
  )
}
