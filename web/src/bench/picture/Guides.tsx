import type { Canvas } from '../../recipe/types'

/** Shares of the canvas within which pictures and lettering are safe: SMPTE ST 2046-1. */
const SAFE = [0.93, 0.9]

/** Lines over the picture: the canvas within its overscan, and what is safe from being cut off. */
export function Guides({ canvas, safeEdges }: { canvas: Canvas; safeEdges: boolean }) {
  const shares = safeEdges ? SAFE : []
  const isWide = (canvas.overscan ?? 0) > 0
  return (
    <div aria-hidden className="pointer-events-none absolute inset-0">
      {isWide && <div className="absolute inset-0 outline outline-faint" />}
      {shares.map((share) => (
        <div
          key={share}
          className="absolute outline outline-white/35 outline-dashed"
          style={{ inset: `${50 * (1 - share)}%` }}
        />
      ))}
    </div>
  )
}
