/** Where the bench stands in time goes along when the shot's own frames change. */
import type { Canvas, Recipe } from '../../recipe/types'
import { useBench } from './store'

/** A frame after the canvas's frames changed: moved where all of them moved, and never outside. */
export function carried(frame: number, before: Canvas, now: Canvas): number {
  const by = now.first - before.first
  const isMoved = now.last - before.last === by
  return Math.min(now.last, Math.max(now.first, isMoved ? frame + by : frame))
}

/** Take the frame that is shown, and the frames that play or are seen in the ribbon, along. */
export function comeAlong(before: Recipe | undefined, now: Recipe | undefined) {
  if (!before || !now) return
  const was = before.canvas
  const is = now.canvas
  if (was.first === is.first && was.last === is.last) return
  const { frame, range, shownFrames, set } = useBench.getState()
  const both = (pair: [number, number] | undefined): [number, number] | undefined =>
    pair && [carried(pair[0], was, is), carried(pair[1], was, is)]
  set({ frame: carried(frame, was, is), range: both(range), shownFrames: both(shownFrames) })
}
