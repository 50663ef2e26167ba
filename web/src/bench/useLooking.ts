/** Keeps the picture up to date with recipe, frame and view, and plays it. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useDocument } from '../recipe/document'
import { Pictures, scaleFor, type Want } from './pictures'
import { useBench } from './store'

export function useLooking() {
  const recipe = useDocument((store) => store.recipe)
  const shotId = useDocument((store) => store.shotId)
  const { frame, view, dragging, playing } = useBench()
  const pictures = useRef<Pictures>(undefined)
  const areaRef = useRef<HTMLDivElement>(null)
  const area = useSize(areaRef)
  const canvas = recipe?.canvas ?? { width: 16, height: 9 }
  const fit = Math.min(area.width / canvas.width, area.height / canvas.height)
  const size = useMemo(
    () => ({ width: canvas.width * fit, height: canvas.height * fit }),
    [canvas.width, canvas.height, fit],
  )

  useEffect(() => {
    const made = new Pictures()
    pictures.current = made
    return () => made.close()
  }, [])

  const wantAt = useCallback(
    (at: number): Want | undefined =>
      recipe && shotId && size.width > 0
        ? {
            shotId,
            recipe,
            frame: at,
            scale: scaleFor(recipe.canvas.width, size.width),
            view,
            hasty: dragging,
          }
        : undefined,
    [recipe, shotId, size.width, view, dragging],
  )

  useEffect(() => {
    const want = wantAt(frame)
    if (want) pictures.current?.want(want)
  }, [wantAt, frame])

  const play = useCallback(() => {
    const bench = useBench.getState()
    const at = useDocument.getState().recipe?.canvas
    if (!bench.playing && at && bench.frame >= at.last) bench.set({ frame: at.first })
    bench.set({ playing: !bench.playing })
  }, [])

  useEffect(() => {
    if (!playing || !recipe) return
    const { first, last, rate } = recipe.canvas
    let due = performance.now() + 1000 / rate
    let request = requestAnimationFrame(function tick(now) {
      const bench = useBench.getState()
      if (now >= due) {
        const next = bench.frame >= last ? first : bench.frame + 1
        if (bench.frame >= last && !bench.loop) {
          bench.set({ playing: false })
          return
        }
        const want = wantAt(next)
        if (want && pictures.current?.has(want)) {
          bench.set({ frame: next })
          due = Math.max(due + 1000 / rate, now)
        } else {
          due = now
        }
      }
      request = requestAnimationFrame(tick)
    })
    return () => cancelAnimationFrame(request)
  }, [playing, recipe, wantAt])

  return { play, areaRef, pictureSize: size }
}

function useSize(ref: React.RefObject<HTMLElement | null>) {
  const [size, setSize] = useState({ width: 0, height: 0 })
  useLayoutEffect(() => {
    const element = ref.current
    if (!element) return
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height })
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [ref])
  return size
}
