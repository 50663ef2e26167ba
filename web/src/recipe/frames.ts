/** Stretches of frames: those that the ribbon shows, and those that play. */
import type { Canvas, Recipe } from './types'

export type Stretch = [first: number, last: number]

/** How many frames the ribbon shows at least. */
export const FEWEST = 8

/** A stretch with its frames counted, and where they stand in it. */
export interface Shown {
  first: number
  last: number
  length: number
  /** Where a frame begins, in percent of the stretch; outside of it below 0 or above 100. */
  percent(frame: number): number
}

export function shownIn(canvas: Canvas, stretch: Stretch | undefined): Shown {
  const [first, last] = stretch ?? [canvas.first, canvas.last]
  const length = last - first + 1
  return { first, last, length, percent: (frame) => (100 * (frame - first)) / length }
}

/** A stretch so many times as long, about a frame; nothing if it is all of the canvas's time. */
export function zoomed(
  canvas: Canvas,
  stretch: Stretch | undefined,
  times: number,
  about: number,
): Stretch | undefined {
  const { first, last, length } = shownIn(canvas, stretch)
  const all = canvas.last - canvas.first + 1
  const wanted = Math.round(Math.min(all, Math.max(Math.min(FEWEST, all), length * times)))
  if (wanted >= all) return undefined
  const middle = Math.min(last, Math.max(first, about))
  const share = (middle - first + 0.5) / length
  return within(canvas, Math.round(middle + 0.5 - share * wanted), wanted)
}

/** A stretch moved by frames, as far as there are any. */
export function panned(canvas: Canvas, stretch: Stretch, by: number): Stretch {
  return within(canvas, stretch[0] + by, stretch[1] - stretch[0] + 1)
}

/** The stretch if a frame is in it, or one as long that begins with it. */
export function holding(canvas: Canvas, stretch: Stretch, frame: number): Stretch {
  const [first, last] = stretch
  if (frame >= first && frame <= last) return stretch
  return within(canvas, frame, last - first + 1)
}

function within({ first, last }: Canvas, from: number, length: number): Stretch {
  const begins = Math.max(first, Math.min(from, last - length + 1))
  return [begins, begins + length - 1]
}

/** How long layers have shown when there is something to see of them. */
const GROWN = 4

/** The first frame on which as many layers as possible have shown for a moment. */
export function tellingFrame({ canvas, layers }: Recipe): number {
  const spans = layers
    .filter((layer) => layer.on !== false)
    .map(({ first, last }) => [
      Math.max(canvas.first, first ?? canvas.first),
      Math.min(canvas.last, last ?? canvas.last),
    ])
  const shown = (frame: number) =>
    spans.filter(([from = 0, to = 0]) => frame >= from + GROWN && frame <= to).length
  const frames = spans.map(([from = 0]) => Math.min(canvas.last, from + GROWN))
  const best = frames.sort((a, b) => shown(b) - shown(a) || a - b)[0]
  return best ?? Math.min(canvas.last, canvas.first + GROWN)
}
