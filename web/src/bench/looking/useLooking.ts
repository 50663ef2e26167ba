/** Keeps the picture up to date with recipe, frame and view, and plays it. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useDocument } from '../../document/document'
import { shownSize } from '../../recipe/types'
import { useBench, useBenchParts } from '../editing/store'
import { comeAlong } from '../editing/within'
import { Pictures, scaleFor, type Want } from './pictures'

/** What of the bench's settings asks for another picture. */
const LOOKED_AT = ['frame', 'view', 'range', 'alone'] as const

export function useLooking() {
  const recipe = useDocument((store) => store.recipe)
  const { playing, zoom } = useBenchParts('playing', 'zoom')
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
  const within = room.width > 0 ? room : area
  const computed = zoom
    ? size.width
    : Math.min(within.width, (shown.width * within.height) / shown.height)

  useEffect(() => {
    const made = new Pictures()
    pictures.current = made
    return () => made.close()
  }, [])

  const wantAt = useCallback(
    (at: number): Want | undefined => {
      const { recipe, shotId } = useDocument.getState()
      if (!recipe || !shotId || computed <= 0) return undefined
      const { view, dragging, range, alone } = useBench.getState()
      const { first, last } = recipe.canvas
      const scale = scaleFor(shownSize(recipe.canvas).width, computed)
      return {
        shotId,
        recipe,
        frame: at,
        scale,
        view,
        alone,
        hasty: dragging,
        range: range ?? [first, last],
      }
    },
    [computed],
  )

  /** What is wanted is asked for as it changes, before anything else is drawn anew. */
  useEffect(() => {
    function ask() {
      const want = wantAt(useBench.getState().frame)
      if (want) pictures.current?.want(want)
    }
    ask()
    const stops = [
      useDocument.subscribe((now, before) => {
        if (now.recipe === before.recipe) return
        comeAlong(before.recipe, now.recipe)
        ask()
      }),
      useBench.subscribe((now, before) => {
        const letGo = before.dragging && !now.dragging
        if (letGo || LOOKED_AT.some((part) => now[part] !== before[part])) ask()
      }),
    ]
    return () => {
      for (const stop of stops) stop()
    }
  }, [wantAt])

  const play = useCallback(() => {
    const bench = useBench.getState()
    const canvas = useDocument.getState().recipe?.canvas
    if (!canvas) return
    const [first, last] = bench.range ?? [canvas.first, canvas.last]
    const isOutside = bench.frame < first || bench.frame >= last
    if (!bench.playing && isOutside) bench.set({ frame: first })
    bench.set({ playing: !bench.playing, late: 0 })
    const want = wantAt(useBench.getState().frame)
    if (!bench.playing && want) pictures.current?.goAhead(want)
  }, [wantAt])

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

  const whole = useCallback(() => pictures.current?.whole(), [])
  const wanted = scaleFor(shown.width, computed)
  return { play, whole, areaRef, pictureSize: size, wanted }
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
