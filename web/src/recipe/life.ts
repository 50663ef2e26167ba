/** The shape of a layer's life. */
import type { Layer } from './types'

/** The corners of a life's envelope as frames and levels from 0 to 1, from first to last frame. */
export function envelope(layer: Layer, first: number, last: number): [number, number][] {
  const number = (name: string, absent: number) => {
    const value = layer.life?.[name]
    return typeof value === 'number' ? value : absent
  }
  const level = number('level', 100) / 100
  const rise = number('rise', 0)
  const full = first + rise + number('peak', 0)
  const settled = full + number('settle', 0)
  const falls = last - number('fall', 0)
  const corners: [number, number][] = [
    [first, rise > 0 ? 0 : 1],
    [first + rise, 1],
    [full, 1],
    [settled, level],
    [Math.max(falls, settled), level],
    [last, number('fall', 0) > 0 ? 0 : level],
  ]
  return corners.map(([frame, height]) => [Math.min(last, frame), height])
}
