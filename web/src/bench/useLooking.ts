/** Keeps the picture up to date with recipe, frame and view, and plays it. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useDocument } from '../recipe/document'
import { Pictures, scaleFor, type Want } from './pictures'
import { useBench } from './store'

export function useLooking() {
  const recipe = useDocument((store) => store.recipe)
  const shotId = useDocument((store) => store.shotId)
  const { frame, view, dragging, playing, zoom } = useBench()
  const pictures = useRef<Pictures>(undefined)
  const areaRef = useRef<HTMLDivElement>(null)
  const area = useSize(areaRef)
  const room = useSize(areaRef, theWhole)
  const canvas = recipe?.canvas ?? { width: 16, height: 9 }
  const fit = Math.min(area.width / canvas.width, area.height / canvas.height)
  const size = useMemo(
    () => ({ width: canvas.width * (zoom ?? fit), height: canvas.height * (zoom ?? fit) }),
    [canvas.width, canvas.height, fit, zoom],
  )

  /** Width for which pictures are computed: it does not change as lanes come and go below. */
  const computed = Math.min(
    zoom ? size.width : room.width,
    zoom ? size.width : (canvas.width * room.height) / canvas.height,
  )

  useEffect(() => {
    const made = new Pictures()
    pictures.current = made
    return () => made.close()
  }, [])

  const wantAt = useCallback(
    (at: number): Want | undefined =>
      recipe && shotId && computed > 0
        ? {
            shotId,
            recipe,
            frame: at,
            scale: scaleFor(recipe.canvas.width, computed),
            view,
            hasty: dragging,
          }
        : undefined,
    [recipe, shotId, computed, view, dragging],
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

const itself = (element: HTMLElement) => element
const theWhole = (element: HTMLElement) => element.parentElement ?? element

/** The size of an element, or of one that it leads to. */
function useSize(ref: React.RefObject<HTMLElement | null>, of = itself) {
  const [size, setSize] = useState({ width: 0, height: 0 })
  useLayoutEffect(() => {
    const element = ref.current && of(ref.current)
    if (!element) return
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height })
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [ref, of])
  return size
}
