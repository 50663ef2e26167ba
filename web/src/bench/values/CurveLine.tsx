import { memo } from 'react'
import { hexOfLight } from '../../recipe/colour'
import type { Curve } from '../looking/useCurves'

const MOST_COLOURS = 40

interface Props {
  curve: Curve
  first: number
  length: number
}

/** A curve in its own range from bottom to top; a colour as the colours that it goes through. */
export const CurveLine = memo(({ curve, first, length }: Props) => {
  if (curve.values[0]?.length === 3) {
    const seen = curve.values.filter((_, i) => {
      const frame = curve.frames[i] ?? 0
      return frame >= first && frame < first + length
    })
    const every = Math.ceil(seen.length / MOST_COLOURS)
    const stops = seen.filter((_, i) => i % every === 0).map(hexOfLight)
    const all = [...stops, stops.at(-1)].join(', ')
    return (
      <div
        aria-hidden
        className="absolute inset-x-0 bottom-1 h-2 rounded"
        style={{ background: `linear-gradient(to right, ${all})` }}
      />
    )
  }
  const all = curve.values.flat()
  const low = Math.min(...all)
  const high = Math.max(...all)
  const height = (value: number) =>
    high > low ? 0.88 - (0.76 * (value - low)) / (high - low) : 0.5
  const lines = curve.values[0]?.map((_, axis) =>
    curve.values
      .map((numbers, i) => `${(curve.frames[i] ?? 0) - first + 0.5},${height(numbers[axis] ?? 0)}`)
      .join(' '),
  )
  return (
    <svg
      aria-hidden="true"
      viewBox={`0 0 ${length} 1`}
      preserveAspectRatio="none"
      className="absolute inset-0 h-full w-full fill-none stroke-accent"
    >
      {lines?.map((points, axis) => (
        <polyline
          // biome-ignore lint/suspicious/noArrayIndexKey: an axis is its place
          key={axis}
          points={points}
          vectorEffect="non-scaling-stroke"
          strokeWidth={1.5}
          className={axis === 1 ? 'opacity-60' : ''}
        />
      ))}
    </svg>
  )
})

/** The numbers at a frame, or at the last one before it that was looked at. */
export function valueNow(curve: Curve, frame: number): number[] | undefined {
  const index = curve.frames.findLastIndex((known) => known <= frame)
  return curve.values[Math.max(0, index)]
}
