import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { setNonce } from 'get-nonce'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { Refused } from './api/client'
import { me } from './api/queries'
import './app.css'
import { Bench } from './bench/Bench'
import { Frame } from './Frame'
import { Renders } from './renders/Renders'
import { Shots } from './shots/Shots'
import { useNotice } from './ui/Notice'

// Dialogs keep the page behind them from scrolling by a style of their own.
setNonce(document.querySelector<HTMLMetaElement>('meta[name="nonce"]')?.content ?? '')

/** Being signed out shows the sign-in screen, wherever it is noticed. */
function noticeSignedOut(error: Error) {
  if (error instanceof Refused && (error.status === 401 || error.status === 403)) {
    void queries.invalidateQueries({ queryKey: me.queryKey })
  }
}

const queries = new QueryClient({
  queryCache: new QueryCache({ onError: noticeSignedOut }),
  mutationCache: new MutationCache({
    onError(error) {
      noticeSignedOut(error)
      useNotice.getState().tell({ says: error.message })
    },
  }),
  defaultOptions: {
    queries: {
      retry: (times, error) => times < 2 && (!(error instanceof Refused) || error.status === 0),
    },
  },
})

const router = createBrowserRouter([
  {
    Component: Frame,
    children: [
      { path: '/', Component: Shots },
      { path: '/shots/:shotId', Component: Bench },
      { path: '/renders', Component: Renders },
      { path: '*', Component: Shots },
    ],
  },
])

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  )
}
