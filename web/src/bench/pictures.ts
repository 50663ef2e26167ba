/**
 * The pictures of the bench. What is asked for last is shown as soon as it can be; one look at a
 * time is under way, and the strip and the other frames follow when nobody waits.
 *
 * Pictures have addresses made of what is in them. What a change did not touch keeps its address,
 * so it is still here, or in the browser's own cache.
 */
import { create } from 'zustand'
import { api, got, type Problem, pageToken, Refused, refusalOf, type Schemas } from '../api/client'
import { type Recipe, shownSize } from '../recipe/types'

export type Background = Schemas['Look']['background']
export type Channel = Schemas['Look']['channel']

export interface View {
  background: Background
  channel: Channel
  exposure: number
  /** Whether light beyond white is striped. */
  clipping: boolean
}

/** What is to be warned of in a picture: edges that it touches, and light beyond white. */
export interface Warnings {
  edges: string[]
  /** The share of its px. */
  clipped: number
  /** Stops by which nine tenths of those are above white at most. */
  above: number
}

/** What the bench wants to see. `hasty` asks for it smaller if it would be late. */
export interface Want {
  shotId: string
  recipe: Recipe
  frame: number
  scale: number
  view: View
  hasty: boolean
  /** Frames that are to be computed before all others. */
  range: [number, number]
}

interface PictureStore {
  result: ImageBitmap | undefined
  /** The scale at which it was computed. */
  scale: number
  warnings: Warnings
  layers: Record<string, ImageBitmap>
  /** Frames that can be shown without computing. */
  ready: ReadonlySet<number>
  problem: { says: string; problems: Problem[] } | undefined
}

const NOTHING: PictureStore = {
  result: undefined,
  scale: 1,
  warnings: { edges: [], clipped: 0, above: 0 },
  layers: {},
  ready: new Set(),
  problem: undefined,
}

export const usePictures = create<PictureStore>(() => NOTHING)

/** What measurements listen for: another picture of the result is on its way to the screen. */
const SHOWN = 'picture shown'

const LATE_MS = 110
const IDLE_MS = 250
const STRIP_WIDTH = 248
const MOST_BITMAPS = 320
const MOST_PLACED_AT_ONCE = 500

/** A newer look made this one useless. */
class Superseded extends Error {}

export class Pictures {
  private readonly bench = crypto.randomUUID()
  private order = 0
  private next: Want | undefined
  private shown: Want | undefined
  private running = false
  /** The hasty look that is under way: a sharp one does not wait for it. */
  private underWay: AbortController | undefined
  private closed = false
  private idle: number | undefined
  private tookMs = 0
  private readonly warnings = new WeakMap<ImageBitmap, Warnings>()
  private readonly bitmaps = new Map<string, ImageBitmap>()
  /** Addresses of all frames, for the recipe and view in `framesOf`. */
  private frames = new Map<number, string>()
  private framesOf: Want | undefined

  constructor() {
    usePictures.setState(NOTHING, true)
  }

  close() {
    this.closed = true
    window.clearTimeout(this.idle)
    for (const bitmap of this.bitmaps.values()) bitmap.close()
    this.bitmaps.clear()
  }

  /** Show this as soon as possible. */
  want(want: Want) {
    const known = this.known(want)
    if (known) {
      this.shown = want
      this.show(known, want.scale)
      this.whenIdle(want)
      return
    }
    this.next = want
    if (!want.hasty) this.underWay?.abort()
    if (!this.running) void this.run()
  }

  /** Whether a frame of what is shown can be shown at once. */
  has(want: Want): boolean {
    return this.known(want) !== undefined
  }

  private known(want: Want): ImageBitmap | undefined {
    if (!this.framesOf || !looksTheSame(want, this.framesOf)) return undefined
    const address = this.frames.get(want.frame)
    return address === undefined ? undefined : this.bitmaps.get(address)
  }

  private async run() {
    this.running = true
    while (this.next && !this.closed) {
      const want = this.next
      this.next = undefined
      window.clearTimeout(this.idle)
      try {
        await this.look(want)
      } catch (error) {
        this.fail(error)
      }
    }
    this.running = false
  }

  private async look(want: Want) {
    const begun = performance.now()
    const isFirst = this.shown === undefined
    const hurried = (want.hasty && this.tookMs > LATE_MS) || isFirst
    const scale = hurried ? want.scale / 2 : want.scale
    const order = ++this.order
    const result = await this.lookAtOnce(want, order, scale)
    if (!hurried) this.tookMs = performance.now() - begun
    if (this.closed) return
    this.shown = want
    this.show(result, scale)
    if (isFirst && !this.next) this.next = want
    if (want.hasty || this.next) return
    const strip = want.recipe.layers
    const stripScale = Math.min(1, STRIP_WIDTH / shownSize(want.recipe.canvas).width)
    const others = await this.place(
      want,
      order,
      strip.map((layer) => ({ frame: want.frame, scale: stripScale, layer: layer.id })),
    )
    for (const [i, address] of others.entries()) {
      const layer = strip[i]
      if (this.next || this.closed || !layer) return
      const bitmap = await this.fetch(address, order)
      usePictures.setState((state) => ({ layers: { ...state.layers, [layer.id]: bitmap } }))
    }
    this.whenIdle(want)
  }

  private show(result: ImageBitmap, scale: number) {
    const warnings = this.warnings.get(result) ?? NOTHING.warnings
    usePictures.setState({ result, scale, warnings, problem: undefined })
    performance.mark(SHOWN, { detail: { scale } })
    performance.clearMarks(SHOWN)
  }

  private whenIdle(want: Want) {
    window.clearTimeout(this.idle)
    if (want.hasty) return
    this.idle = window.setTimeout(() => {
      if (!this.running) void this.ahead(want).catch((error) => this.fail(error))
    }, IDLE_MS)
  }

  /** Compute the other frames while nobody waits, from the one shown onwards. */
  private async ahead(want: Want) {
    const { first, last } = want.recipe.canvas
    const order = this.order
    const isOver = () => this.closed || this.next !== undefined || this.order !== order
    if (!this.framesOf || !looksTheSame(want, this.framesOf)) {
      const numbers = Array.from({ length: last - first + 1 }, (_, i) => first + i)
      const frames = new Map<number, string>()
      for (let i = 0; i < numbers.length; i += MOST_PLACED_AT_ONCE) {
        const part = numbers.slice(i, i + MOST_PLACED_AT_ONCE)
        const looks = part.map((frame) => ({ frame, scale: want.scale, ...want.view }))
        const addresses = await this.place(want, order, looks)
        if (isOver()) return
        part.forEach((frame, k) => {
          frames.set(frame, addresses[k] ?? '')
        })
      }
      this.frames = frames
      this.framesOf = want
    }
    this.markReady()
    for (const frame of inTurn(want).slice(0, MOST_BITMAPS)) {
      const address = this.frames.get(frame)
      if (!address || this.bitmaps.has(address)) continue
      await this.fetch(address, order)
      if (isOver()) return
      this.markReady()
    }
  }

  private markReady() {
    const ready = new Set<number>()
    for (const [frame, address] of this.frames) if (this.bitmaps.has(address)) ready.add(frame)
    usePictures.setState({ ready })
  }

  /** The picture that is wanted, in one go. */
  private async lookAtOnce(want: Want, order: number, scale: number): Promise<ImageBitmap> {
    const { shotId, recipe, frame, view } = want
    this.underWay = want.hasty ? new AbortController() : undefined
    const response = await fetch('/api/v1/preview/look', {
      method: 'POST',
      signal: this.underWay?.signal,
      headers: { 'Content-Type': 'application/json', 'X-CSRFToken': pageToken() },
      body: JSON.stringify({
        bench: this.bench,
        order,
        shot: shotId,
        recipe,
        picture: { frame, scale, ...view },
      }),
    })
    return this.taken(response.headers.get('X-Address') ?? '', response)
  }

  private async place(want: Want, order: number, looks: Partial<Schemas['Look']>[]) {
    const body = {
      bench: this.bench,
      order,
      shot: want.shotId,
      recipe: want.recipe as unknown as Record<string, unknown>,
      pictures: looks as Schemas['Look'][],
    }
    return (await got(api.POST('/api/v1/preview', { body }))).addresses
  }

  private async fetch(address: string, order: number): Promise<ImageBitmap> {
    const known = this.bitmaps.get(address)
    if (known) {
      this.bitmaps.delete(address)
      this.bitmaps.set(address, known)
      return known
    }
    const headers = { 'X-Bench': this.bench, 'X-Order': String(order) }
    const response = await fetch(`/api/v1/preview/${address}.jpg`, { headers })
    return this.taken(address, response)
  }

  /** The bitmap in an answer, kept under its address. */
  private async taken(address: string, response: Response): Promise<ImageBitmap> {
    if (!response.ok) throw await refusalOf(response)
    if (response.status === 204) throw new Superseded()
    const known = this.bitmaps.get(address)
    if (known) return known
    const bitmap = await createImageBitmap(await response.blob())
    this.warnings.set(bitmap, warningsIn(response.headers))
    this.bitmaps.set(address, bitmap)
    while (this.bitmaps.size > MOST_BITMAPS) {
      const oldest = this.bitmaps.keys().next().value as string
      this.bitmaps.delete(oldest)
    }
    return bitmap
  }

  /** A newer look in the way is no failure; anything else is said, and the last picture stays. */
  private fail(error: unknown) {
    const isAborted = error instanceof DOMException && error.name === 'AbortError'
    if (error instanceof Superseded || isAborted || this.closed) return
    const refusal = error instanceof Refused ? error : new Refused(0, String(error))
    if (refusal.status === 404) this.framesOf = undefined
    usePictures.setState({ problem: { says: refusal.message, problems: refusal.problems } })
    if (refusal.status === 0 || refusal.status === 404 || refusal.status >= 500) {
      const again = this.shown
      this.idle = window.setTimeout(() => {
        if (again && !this.next && !this.closed) this.want(again)
      }, 2000)
    }
  }
}

/** All frames, from the one shown onwards and round: those of the range first. */
function inTurn({ frame, range: [from, to], recipe }: Want): number[] {
  const { first, last } = recipe.canvas
  const length = last - first + 1
  const all = Array.from({ length }, (_, i) => first + ((frame - first + i + length) % length))
  const isInside = (each: number) => each >= from && each <= to
  return [...all.filter(isInside), ...all.filter((each) => !isInside(each))]
}

function warningsIn(headers: Headers): Warnings {
  return {
    edges: headers.get('X-Edges')?.split(' ').filter(Boolean) ?? [],
    clipped: Number(headers.get('X-Clipped') ?? 0),
    above: Number(headers.get('X-Above') ?? 0),
  }
}

function looksTheSame(a: Want, b: Want): boolean {
  return (
    a.recipe === b.recipe &&
    a.scale === b.scale &&
    a.view.background === b.view.background &&
    a.view.channel === b.view.channel &&
    a.view.exposure === b.view.exposure &&
    a.view.clipping === b.view.clipping
  )
}

const SCALES = [1 / 8, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 1]

/** The smallest picture that is sharp enough at a width on the screen. */
export function scaleFor(shownWidth: number, screenWidth: number): number {
  const needed = (screenWidth * Math.min(2, window.devicePixelRatio)) / shownWidth
  return SCALES.find((scale) => scale >= needed - 0.02) ?? 1
}
