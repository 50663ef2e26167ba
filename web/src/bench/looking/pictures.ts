/**
 * The pictures of the bench. What is asked for last is shown as soon as it can be; one look at a
 * time is under way, and the strip and the other frames follow when nobody waits.
 *
 * Pictures have addresses made of what is in them. What a change did not touch keeps its address,
 * so it is still here, or in the browser's own cache.
 */
import { create } from 'zustand'
import { type Problem, Refused } from '../../api/client'
import { type Recipe, shownSize } from '../../recipe/types'
import type { View } from '../editing/view'
import { Bitmaps, type Costs, NO_WARNINGS, Superseded, type Waits, type Warnings } from './bitmaps'
import { Pace, SCALES } from './pace'

/** What the bench wants to see. `hasty` asks for it as large as it can be in time. */
export interface Want {
  shotId: string
  recipe: Recipe
  frame: number
  scale: number
  view: View
  /** Layers that are looked at by themselves, if any. */
  alone: string[]
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
  /** Frames that what has a memory has gone through, if anything has one. */
  remembered: ReadonlySet<number> | undefined
  /** What is shown stands in for what is wanted. */
  waits: Waits | undefined
  /** What is shown is smaller than what is wanted, as that costs so much. */
  costs: Costs | undefined
  problem: { says: string; problems: Problem[] } | undefined
}

const NOTHING: PictureStore = {
  result: undefined,
  scale: 1,
  warnings: NO_WARNINGS,
  layers: {},
  ready: new Set(),
  remembered: undefined,
  waits: undefined,
  costs: undefined,
  problem: undefined,
}

export const usePictures = create<PictureStore>(() => NOTHING)

/** What measurements listen for: another picture of the result is on its way to the screen. */
const SHOWN = 'picture shown'

/** Somebody who has not touched anything for so long does not mind that other frames are computed. */
const IDLE_MS = 1000
const REST_MS = 140
const STRIP_WIDTH = 248
const AGAIN_MS = 2000
const REMEMBERED_MS = 1000

export class Pictures {
  private order = 0
  /** What was asked for last. */
  private asked: Want | undefined
  private next: Want | undefined
  private isFirst = true
  private running = false
  /** The look that is under way, if another one need not wait for it. */
  private underWay: { want: Want; end: AbortController } | undefined
  private refining: number | undefined
  private closed = false
  private idle: number | undefined
  /** The recipe whose pictures cost too much to be shown as large as is wanted, and what one does. */
  private held: (Costs & { recipe: Recipe }) | undefined
  /** A frame that is wanted whole all the same. */
  private wholly: Want | undefined
  private readonly pace = new Pace()
  private readonly bitmaps = new Bitmaps()
  /** Addresses of all frames, for the recipe and view in `framesOf`. */
  private frames = new Map<number, string>()
  private framesOf: Want | undefined
  /** Of which recipe it was asked what is remembered, whether it has a memory, and when to ask again. */
  private rememberedOf: Recipe | undefined
  private hasMemory = false
  private remembersAt = 0
  private askings = 0

  constructor() {
    usePictures.setState(NOTHING, true)
  }

  close() {
    this.closed = true
    window.clearTimeout(this.idle)
    window.clearTimeout(this.refining)
    this.bitmaps.close()
  }

  /** Show this as soon as possible. */
  want(asked: Want) {
    this.asked = asked
    const want = this.within(asked)
    window.clearTimeout(this.refining)
    const busy = this.underWay
    const known = this.known(want)
    if (known) {
      this.next = undefined
      busy?.end.abort()
      this.isFirst = false
      this.show(known, want.scale)
      this.whenIdle(want)
      return
    }
    const isAsked = busy?.want.frame === want.frame && looksTheSame(want, busy.want)
    this.next = isAsked && !busy.want.hasty ? undefined : want
    if (!this.next) return
    if (busy && busy.want.hasty !== want.hasty) busy.end.abort()
    if (!this.running) void this.run()
  }

  /** Show what was asked for last as large as it is, however long that takes. */
  whole() {
    if (!this.asked) return
    this.wholly = this.asked
    this.underWay?.end.abort()
    this.want({ ...this.asked, hasty: false })
  }

  /** Whether a frame of what is shown can be shown at once. */
  has(want: Want): boolean {
    return this.known(this.within(want)) !== undefined
  }

  /** The same as large as its recipe lets it be in time, as far as that is known; whole where that was asked for. */
  private within(want: Want): Want {
    const { wholly } = this
    const isWhole = wholly?.recipe === want.recipe && wholly.frame === want.frame
    return isWhole ? want : this.inTime(want)
  }

  private inTime(want: Want): Want {
    const { held } = this
    if (held?.recipe !== want.recipe) return want
    return { ...want, scale: Math.min(want.scale, held.scale) }
  }

  private known(want: Want): ImageBitmap | undefined {
    if (!this.framesOf || !looksTheSame(want, this.framesOf)) return undefined
    const address = this.frames.get(want.frame)
    return address === undefined ? undefined : this.bitmaps.get(address)
  }

  private async run() {
    this.running = true
    while (this.next && !this.closed) {
      const want = this.within(this.next)
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
    const { isFirst } = this
    const scale = want.hasty || isFirst ? this.pace.scaleFor(want.scale) : want.scale
    const hurried = scale < want.scale
    const order = ++this.order
    const end = new AbortController()
    this.underWay = { want, end }
    const picture = { frame: want.frame, scale, ...want.view }
    const how = { whole: this.held?.recipe === want.recipe, hasty: want.hasty }
    const looking = this.bitmaps.look(want, order, picture, how, end.signal)
    const {
      bitmap,
      waits,
      costs,
      scale: smaller,
    } = await looking.finally(() => {
      this.underWay = undefined
    })
    if (this.closed) return
    if (costs) {
      // The first one is asked for smaller than it is wanted: what is wanted is judged by itself.
      if (!isFirst || !hurried) this.held = { ...costs, recipe: want.recipe }
      this.isFirst = false
      usePictures.setState({ costs })
      this.next ??= want
      return
    }
    if (waits) {
      if (bitmap) this.show(bitmap, scale)
      usePictures.setState({ waits })
      this.next ??= want
      this.tellRemembered(want).catch((error) => this.fail(error))
      return
    }
    if (!bitmap) return
    this.pace.took(scale, performance.now() - begun)
    this.isFirst = false
    const hasWaited = usePictures.getState().waits !== undefined
    this.show(bitmap, smaller ?? scale)
    if (hasWaited) this.tellRemembered(want, true).catch((error) => this.fail(error))
    if (isFirst && !this.next) this.next = want
    if ((hurried || smaller) && want.hasty && !this.next) this.refineSoon(want)
    if (want.hasty || this.next) return
    const strip = want.recipe.layers
    const stripScale = Math.min(1, STRIP_WIDTH / shownSize(want.recipe.canvas).width)
    const others = await this.bitmaps.place(
      want,
      order,
      strip.map((layer) => ({ frame: want.frame, scale: stripScale, layer: layer.id })),
    )
    for (const [i, address] of others.entries()) {
      const layer = strip[i]
      if (this.next || this.closed || !layer) return
      const bitmap = await this.bitmaps.fetch(address, order)
      usePictures.setState((state) => ({ layers: { ...state.layers, [layer.id]: bitmap } }))
    }
    this.whenIdle(want)
  }

  private show(result: ImageBitmap, scale: number) {
    const warnings = this.bitmaps.warningsOf(result)
    const { held } = this
    const costs =
      held && held.recipe === this.asked?.recipe && scale <= held.scale ? held : undefined
    usePictures.setState({ result, scale, warnings, costs, waits: undefined, problem: undefined })
    performance.mark(SHOWN, { detail: { scale } })
    performance.clearMarks(SHOWN)
  }

  private whenIdle(want: Want) {
    window.clearTimeout(this.idle)
    if (want.hasty || savesData()) return
    this.idle = window.setTimeout(() => this.goAhead(want), IDLE_MS)
  }

  /** Compute what comes next to be shown, now: it is about to be played. */
  goAhead(asked: Want) {
    const want = this.inTime(asked)
    window.clearTimeout(this.idle)
    if (!this.running) void this.ahead(want).catch((error) => this.fail(error))
  }

  /** Compute the other frames while nobody waits, from the one shown onwards. */
  private async ahead(want: Want) {
    const { first, last } = want.recipe.canvas
    const order = this.order
    const isOver = () => this.closed || this.next !== undefined || this.order !== order
    if (!this.framesOf || !looksTheSame(want, this.framesOf)) {
      const numbers = Array.from({ length: last - first + 1 }, (_, i) => first + i)
      const looks = numbers.map((frame) => ({ frame, scale: want.scale, ...want.view }))
      const addresses = await this.bitmaps.place(want, order, looks)
      if (isOver()) return
      this.frames = new Map(numbers.map((frame, i) => [frame, addresses[i] ?? '']))
      this.framesOf = want
    }
    this.markReady()
    await this.tellRemembered(want)
    const { result } = usePictures.getState()
    const room = result ? this.bitmaps.roomFor(result) : 0
    for (const frame of inTurn(want).slice(0, room)) {
      const address = this.frames.get(frame)
      if (!address || this.bitmaps.has(address)) continue
      await this.bitmaps.fetch(address, order)
      if (isOver()) return
      this.markReady()
      await this.tellRemembered(want)
    }
    if (this.hasMemory) await this.tellRemembered(want, true)
  }

  /** Ask which frames are remembered, now and then; and at once when much has just been computed. */
  private async tellRemembered(want: Want, isNow = false) {
    const now = performance.now()
    const isDue = isNow || (this.hasMemory && now >= this.remembersAt)
    if (this.rememberedOf === want.recipe && !isDue) return
    this.rememberedOf = want.recipe
    this.remembersAt = Number.POSITIVE_INFINITY
    const asking = ++this.askings
    const frames = await this.bitmaps.remembered(want).finally(() => {
      // A long past takes long to tell: it is asked for no more than a tenth of the time.
      this.remembersAt = performance.now() + Math.max(REMEMBERED_MS, 9 * (performance.now() - now))
    })
    this.hasMemory = frames !== undefined
    if (this.closed || this.askings !== asking) return
    usePictures.setState({ remembered: frames && new Set(frames) })
  }

  private markReady() {
    const ready = new Set<number>()
    for (const [frame, address] of this.frames) if (this.bitmaps.has(address)) ready.add(frame)
    usePictures.setState({ ready })
  }

  /** A hand that rests while it drags sees the sharp picture. */
  private refineSoon(want: Want) {
    window.clearTimeout(this.refining)
    this.refining = window.setTimeout(() => {
      if (!this.closed && !this.next && !this.running) this.want({ ...want, hasty: false })
    }, REST_MS)
  }

  /** A newer look in the way is no failure; anything else is said, and the last picture stays. */
  private fail(error: unknown) {
    const isAborted = error instanceof DOMException && error.name === 'AbortError'
    if (error instanceof Superseded || isAborted || this.closed) return
    const refusal = error instanceof Refused ? error : new Refused(0, String(error))
    if (refusal.status === 404) this.framesOf = undefined
    const problem = { says: refusal.message, problems: refusal.problems }
    usePictures.setState({ problem, waits: undefined })
    if (refusal.status === 0 || refusal.status === 404 || refusal.status >= 500) {
      this.idle = window.setTimeout(() => {
        if (this.asked && !this.next && !this.closed) this.want(this.asked)
      }, AGAIN_MS)
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

function looksTheSame(a: Want, b: Want): boolean {
  return (
    a.recipe === b.recipe &&
    a.scale === b.scale &&
    a.alone === b.alone &&
    a.view.background === b.view.background &&
    a.view.channel === b.view.channel &&
    a.view.exposure === b.view.exposure &&
    a.view.clipping === b.view.clipping
  )
}

/** The smallest picture that is sharp enough at a width on the screen. */
export function scaleFor(shownWidth: number, screenWidth: number): number {
  const needed = (screenWidth * Math.min(2, window.devicePixelRatio)) / shownWidth
  return SCALES.find((scale) => scale >= needed - 0.02) ?? 1
}

/** Whether the browser asks that nothing is fetched but what is wanted. */
function savesData(): boolean {
  const { connection } = navigator as Navigator & { connection?: { saveData?: boolean } }
  return connection?.saveData === true
}
