/** Keeps the picture up to date with recipe, frame and view, and plays it. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useDocument } from '../recipe/document'
import { shownSize } from '../recipe/types'
import { Pictures, scaleFor, type Want } from './pictures'
import { useBench } from './store'

export function useLooking() {
  const recipe = useDocument((store) => store.recipe)
  const shotId = useDocument((store) => store.shotId)
  const { frame, view, dragging, playing, zoom, range } = useBench()
  const pictures = useRef<Pictures>(undefined)
  const areaRef = useRef<HTMLDivElement>(null)
  const area = useSize(areaRef)
  const room = useSize(areaRef, theWhole)
  const shown = recipe ? shownSize(recipe.canvas) : { width: 16, height: 9 }
  const fit = Math.min(area.width / shown.width, area.height / shown.height)
  const size = useMemo(
    () => ({ width: shown.width * (zoom ?? fit), height: shown.height * (zoom ?? fit) }),
    [shown.width, shown.height, fit, zoom],
  )

  /** Width for which pictures are computed: it does not change as lanes come and go below. */
  const computed = Math.min(
    zoom ? size.width : room.width,
    zoom ? size.width : (shown.width * room.height) / shown.height,
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
            scale: scaleFor(shownSize(recipe.canvas).width, computed),
            view,
            hasty: dragging,
            range: range ?? [recipe.canvas.first, recipe.canvas.last],
          }
        : undefined,
    [recipe, shotId, computed, view, dragging, range],
  )

  useEffect(() => {
    const want = wantAt(frame)
    if (want) pictures.current?.want(want)
  }, [wantAt, frame])

  const play = useCallback(() => {
    const bench = useBench.getState()
    const canvas = useDocument.getState().recipe?.canvas
    if (!canvas) return
    const [first, last] = bench.range ?? [canvas.first, canvas.last]
    const isOutside = bench.frame < first || bench.frame >= last
    if (!bench.playing && isOutside) bench.set({ frame: first })
    bench.set({ playing: !bench.playing, late: 0 })
  }, [])

  useEffect(() => {
    if (!playing || !recipe) return
    const { rate } = recipe.canvas
    const lasts = 1000 / rate
    let due = performance.now() + lasts
    let request = requestAnimationFrame(function tick(now) {
      const bench = useBench.getState()
      if (now >= due) {
        const [first, last] = bench.range ?? [recipe.canvas.first, recipe.canvas.last]
        const next = bench.frame >= last || bench.frame < first ? first : bench.frame + 1
        if (bench.frame >= last && !bench.loop) {
          bench.set({ playing: false })
          return
        }
        const want = wantAt(next)
        if (want && pictures.current?.has(want)) {
          const isLate = now - due > lasts
          bench.set({ frame: next, ...(isLate && { late: bench.late + 1 }) })
          due = isLate ? now + lasts : due + lasts
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
