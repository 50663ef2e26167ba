import { useEffect, useState } from 'react'
import { useDocument } from '../../document/document'
import { Button } from '../../ui/Button'
import { LastPicture } from '../../ui/LastPicture'
import { usePictures } from '../looking/pictures'

const PATIENCE_MS = 250

/** While something with memory is gone through: what is shown meanwhile, and how far it has come. */
export function StandsIn() {
  const waits = usePictures((store) => store.waits)
  const first = useDocument((store) => store.recipe?.canvas.first ?? 0)
  if (!waits) return null
  const percent = Math.floor(100 * waits.share)
  const { frame } = waits
  const shown = frame === undefined || frame < first ? 'what comes before' : `frame ${frame}`
  return (
    <p
      role="status"
      className="absolute bottom-3 left-3 rounded-full bg-black/70 px-3 py-1 text-xs text-quiet"
    >
      Simulating, {percent} %
      {frame !== undefined && <span className="text-amber"> · {shown} stands in</span>}
    </p>
  )
}

const PARTS: Record<number, string> = { 2: 'half', 3: 'a third', 4: 'a quarter', 8: 'an eighth' }

/** Where a picture costs so much that a smaller one is shown: what it costs, and a way to have it all the same. */
export function Smaller({ wanted, onWhole }: { wanted: number; onWhole: () => void }) {
  const costs = usePictures((store) => store.costs)
  if (!costs) return null
  const times = Math.max(2, Math.round(wanted / costs.scale))
  return (
    <p
      role="status"
      className="absolute top-3 left-3 z-10 flex w-fit items-center gap-2 rounded-2xl bg-black/80 py-1 pr-1 pl-3 text-xs text-amber"
    >
      This frame costs about {lasting(costs.seconds)}; shown at {PARTS[times] ?? `1/${times}`} size
      <Button className="h-6 px-2 text-xs" onClick={onWhole}>
        Show it whole
      </Button>
    </p>
  )
}

function lasting(seconds: number): string {
  return seconds < 100 ? `${seconds} s` : `${Math.round(seconds / 60)} min`
}

/** While there is no picture yet: the last small one that was made of the shot, and a word. */
export function Awaited() {
  const shotId = useDocument((store) => store.shotId)
  const isThere = usePictures((store) => store.result !== undefined || store.waits !== undefined)
  const [isLong, setLong] = useState(false)
  useEffect(() => {
    const timer = window.setTimeout(() => setLong(true), PATIENCE_MS)
    return () => window.clearTimeout(timer)
  }, [])
  if (isThere) return null
  return (
    <>
      <LastPicture
        key={shotId}
        src={`/api/v1/preview/thumbnails/${shotId}.jpg?last`}
        className="absolute inset-0 h-full w-full rounded-md opacity-60"
      />
      {isLong && (
        <p
          role="status"
          className="absolute bottom-3 left-3 rounded-full bg-black/70 px-3 py-1 text-xs text-quiet"
        >
          Making the picture …
        </p>
      )}
    </>
  )
}
