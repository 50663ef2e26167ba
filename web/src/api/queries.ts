/** Server data by key: each is fetched in one place and never copied into component state. */
import { queryOptions } from '@tanstack/react-query'
import { api, got } from './client'

export const me = queryOptions({
  queryKey: ['me'],
  queryFn: () => got(api.GET('/api/v1/people/me')),
  staleTime: 60_000,
})

export const shots = queryOptions({
  queryKey: ['shots'],
  queryFn: () => got(api.GET('/api/v1/shots')),
})

export const shot = (id: string) =>
  queryOptions({
    queryKey: ['shots', id],
    queryFn: () => got(api.GET('/api/v1/shots/{shot_id}', { params: { path: { shot_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  })

/** What was saved of a shot; there is another as soon as its revision is another. */
export const revisions = (id: string, revision: number) =>
  queryOptions({
    queryKey: ['shots', id, 'revisions', revision],
    queryFn: () =>
      got(api.GET('/api/v1/shots/{shot_id}/revisions', { params: { path: { shot_id: id } } })),
  })

export const starters = queryOptions({
  queryKey: ['starters'],
  queryFn: () => got(api.GET('/api/v1/starters')),
  staleTime: Number.POSITIVE_INFINITY,
})

/** Timecodes of frames in a row. */
export const timecodes = (first: number, count: number, rate: number, drops: boolean) =>
  queryOptions({
    queryKey: ['timecodes', first, count, rate, drops],
    queryFn: () =>
      got(api.GET('/api/v1/timecodes', { params: { query: { first, count, rate, drops } } })),
    staleTime: Number.POSITIVE_INFINITY,
  })

export const formats = queryOptions({
  queryKey: ['formats'],
  queryFn: () => got(api.GET('/api/v1/renders/formats')),
  staleTime: Number.POSITIVE_INFINITY,
})

/** Whether there are workers, looked at now and then. */
export const readiness = queryOptions({
  queryKey: ['ready'],
  queryFn: () => got(api.GET('/api/v1/ready')),
  refetchInterval: 5000,
})

export const renders = (shotId?: string) =>
  queryOptions({
    queryKey: ['renders', shotId ?? 'all'],
    queryFn: () =>
      got(api.GET('/api/v1/renders', { params: { query: shotId ? { shot: shotId } : {} } })),
    refetchInterval: (query) => query.state.data?.some(isUnderWay) && LOOKED_AFTER_MS,
  })

/** What changes is told at once; a look now and then finds what was told to nobody. */
const LOOKED_AFTER_MS = 10_000

/** A written frame, which stays as it is. */
export const frame = (render: string, number: number) =>
  queryOptions({
    queryKey: ['frames', render, number],
    queryFn: () => {
      const path = { render_id: render, frame: number }
      return got(api.GET('/api/v1/renders/{render_id}/frames/{frame}', { params: { path } }))
    },
    staleTime: Number.POSITIVE_INFINITY,
  })

export function isUnderWay(render: { state: string }): boolean {
  return render.state === 'queued' || render.state === 'running'
}
