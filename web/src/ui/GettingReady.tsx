import { useQuery } from '@tanstack/react-query'
import { readiness } from '../api/queries'

/** That the program is new here, and pictures come slower until all is compiled that computes them. */
export function GettingReady() {
  const ready = useQuery({
    ...readiness,
    refetchInterval: ({ state }) => state.data?.compiling !== null && LOOKED_AFTER_MS,
  })
  const share = ready.data?.compiling
  if (share == null) return null
  return (
    <span role="status" className="text-sm text-amber">
      Getting ready, {Math.round(100 * share)} %: pictures come slower until then
    </span>
  )
}

const LOOKED_AFTER_MS = 5000
