import { useMutation, useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, got, type Schemas } from '../api/client'
import { starters as startersQuery } from '../api/queries'
import { byFrame, MovingPicture } from '../ui/MovingPicture'
import { Failed, Loading } from '../ui/States'

type Starter = Schemas['StarterLine']

/** The ready recipes, family by family; pressing one begins a shot from it. */
export function Starters() {
  const navigate = useNavigate()
  const starters = useQuery(startersQuery)
  const begin = useMutation({
    mutationFn: (starter: Starter) =>
      got(
        api.POST('/api/v1/starters/{starter_id}/shot', {
          params: { path: { starter_id: starter.id } },
        }),
      ),
    onSuccess: (shot) => navigate(`/shots/${shot.id}`),
  })

  return (
    <section aria-labelledby="starters" className="mt-9">
      <h2 id="starters" className="text-lg font-semibold">
        Begin from a starter
      </h2>
      {starters.isPending && <Loading what="the starters" />}
      {starters.isError && (
        <Failed error={starters.error} onRetry={() => void starters.refetch()} />
      )}
      {families(starters.data ?? []).map(([family, members]) => (
        <div key={family} className="mt-4">
          <h3 className="mb-2 text-sm text-quiet first-letter:uppercase">{family}</h3>
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(200px,1fr))] gap-4">
            {members.map((starter) => (
              <li key={starter.id}>
                <button
                  type="button"
                  disabled={begin.isPending}
                  onClick={() => begin.mutate(starter)}
                  className="w-full overflow-hidden rounded-lg text-left hover:bg-panel disabled:opacity-60"
                >
                  <MovingPicture {...byFrame(pictureOf(starter), starter.first, starter.last)} />
                  <span className="block truncate px-2 py-1.5 text-sm">{starter.name}</span>
                </button>
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  )
}

/** Where the picture of a starter is. */
export function pictureOf(starter: Starter): string {
  return `/api/v1/preview/starters/${starter.id}.jpg`
}

function families(starters: Starter[]): [string, Starter[]][] {
  const names = [...new Set(starters.map((starter) => starter.family))]
  return names.map((name) => [name, starters.filter((starter) => starter.family === name)])
}
