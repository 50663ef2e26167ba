/** What is told by the server reaches what shows it: lists, renders, and the open shot. */
import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { api, got, type Schemas } from './api/client'
import { listen } from './api/events'
import { renders, shots } from './api/queries'
import { useDocument } from './document/document'

/** Listens while somebody is signed in. */
export function useHearing(isSignedIn: boolean) {
  const queries = useQueryClient()
  useEffect(() => {
    if (!isSignedIn) return
    return listen((told) => {
      if (told.what === 'render') return void refreshRender(queries, told.id)
      void queries.invalidateQueries({ queryKey: shots.queryKey, exact: true })
      if (told.what === 'all') void queries.invalidateQueries({ queryKey: ['renders'] })
      void useDocument.getState().hear(told)
    })
  }, [isSignedIn, queries])
}

/** One render as it is now, in the lists that it belongs to. */
async function refreshRender(queries: QueryClient, id: string) {
  const path = { render_id: id }
  const line = await got(api.GET('/api/v1/renders/{render_id}', { params: { path } })).catch(
    () => undefined,
  )
  if (!line) return
  for (const { queryKey } of [renders(), renders(line.shot)]) {
    queries.setQueryData<Schemas['RenderLine'][]>(queryKey, (lines) =>
      lines?.some((each) => each.id === id)
        ? lines.map((each) => (each.id === id ? line : each))
        : lines && [line, ...lines],
    )
  }
}
