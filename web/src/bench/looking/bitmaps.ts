/** Pictures from the server as bitmaps, by the addresses that they have there. */
import { answerTo, api, got, type Schemas } from '../../api/client'
import type { Recipe } from '../../recipe/types'
import { decoded } from './decoding'

type Look = Schemas['Look']

/** What is to be warned of in a picture: edges that it touches, and light beyond white. */
export interface Warnings {
  edges: string[]
  /** The share of its px. */
  clipped: number
  /** Stops by which nine tenths of those are above white at most. */
  above: number
  /** Sides at which the plate is bent so far that what lies beyond its edge shows, and what that is. */
  beyond: string[]
  edge: string
  /** The share of the plate that folds over, and where about, in px of the canvas. */
  folded: number
  foldAt: string
}

export const NO_WARNINGS: Warnings = {
  edges: [],
  clipped: 0,
  above: 0,
  beyond: [],
  edge: '',
  folded: 0,
  foldAt: '',
}

/** While states are gone through: the share of them that is known, and the frame that is shown meanwhile. */
export interface Waits {
  share: number
  frame?: number
}

/** What a picture is likely to take, and the scale at which it would be there in time. */
export interface Costs {
  seconds: number
  scale: number
}

/** However long a picture takes; or smaller where many wait. */
export interface How {
  whole?: boolean
  hasty?: boolean
}

/** A picture, or what stands in for it, if anything does; or only that it costs too much. */
export interface Looked {
  bitmap?: ImageBitmap
  waits?: Waits
  costs?: Costs
  /** Its scale, where it is smaller than was asked for, as many wait for theirs. */
  scale?: number
}

const SUPERSEDED = 204
const NOT_YET = 202

/** A newer look made this one useless. */
export class Superseded extends Error {}

/** Whose pictures they are: a recipe of a shot, with the plate of the shot behind; of some layers alone. */
export interface Of {
  shotId: string
  recipe: Recipe
  alone?: string[]
}

/** What all bitmaps together may hold: 180 of 1280 × 720 px, for example. */
const MOST_BYTES = 640 * 1024 * 1024
const MOST_PLACED_AT_ONCE = 500

/** The bitmaps used last. Each request has an order: the server stops working for lower ones. */
export class Bitmaps {
  private readonly bench = crypto.randomUUID()
  private readonly known = new Map<string, ImageBitmap>()
  private readonly warnings = new WeakMap<ImageBitmap, Warnings>()

  private bytes = 0

  /** How many there is room for that are as large as one. */
  roomFor(bitmap: ImageBitmap): number {
    return Math.floor((0.9 * MOST_BYTES) / bytesOf(bitmap))
  }

  has(address: string): boolean {
    return this.known.has(address)
  }

  get(address: string): ImageBitmap | undefined {
    return this.known.get(address)
  }

  warningsOf(bitmap: ImageBitmap): Warnings {
    return this.warnings.get(bitmap) ?? NO_WARNINGS
  }

  close() {
    for (const bitmap of this.known.values()) bitmap.close()
    this.known.clear()
  }

  /** A picture in one go, or what stands in for it; `how` says whether however long it takes, or in a hurry. Throws
   * `Superseded`, or a refusal; `signal` ends it. */
  async look(
    of: Of,
    order: number,
    picture: object,
    how: How,
    signal: AbortSignal,
  ): Promise<Looked> {
    const response = await lookAtOnce(this.bench, order, of, picture, how, signal)
    const address = response.headers.get('X-Address')
    if (address || response.status === SUPERSEDED) {
      const scale = Number(response.headers.get('X-Scale')) || undefined
      return { bitmap: await this.taken(address ?? '', response), scale }
    }
    if (response.headers.has('X-Seconds')) {
      const seconds = Number(response.headers.get('X-Seconds'))
      return { costs: { seconds, scale: Number(response.headers.get('X-Scale')) } }
    }
    const share = Number(response.headers.get('X-Share') ?? 0)
    if (response.status === NOT_YET) return { waits: { share } }
    const bitmap = await decoded(await response.blob())
    this.warnings.set(bitmap, warningsIn(response.headers))
    return { bitmap, waits: { share, frame: Number(response.headers.get('X-Stands-In')) } }
  }

  /** The frames that what has a memory has gone through, if anything has one. */
  async remembered(of: Of): Promise<number[] | undefined> {
    const body = { recipe: { ...of.recipe }, shot: of.shotId, alone: of.alone ?? [] }
    const found = await got(api.POST('/api/v1/preview/remembered', { body }))
    return found.has_memory ? found.frames : undefined
  }

  /** Where pictures are, in the order asked for; nothing is computed yet. */
  async place(of: Of, order: number, pictures: Partial<Look>[]): Promise<string[]> {
    const found: string[] = []
    for (let i = 0; i < pictures.length; i += MOST_PLACED_AT_ONCE) {
      const body = {
        bench: this.bench,
        order,
        shot: of.shotId,
        recipe: { ...of.recipe },
        alone: of.alone ?? [],
        pictures: pictures.slice(i, i + MOST_PLACED_AT_ONCE) as Look[],
      }
      found.push(...(await got(api.POST('/api/v1/preview', { body }))).addresses)
    }
    return found
  }

  /** The picture at an address. Throws `Superseded`, or a refusal. */
  async fetch(address: string, order: number): Promise<ImageBitmap> {
    const known = this.known.get(address)
    if (known) {
      this.known.delete(address)
      this.known.set(address, known)
      return known
    }
    const headers = { 'X-Bench': this.bench, 'X-Order': String(order) }
    return this.taken(address, await answerTo(`/api/v1/preview/${address}.jpg`, { headers }))
  }

  private async taken(address: string, response: Response): Promise<ImageBitmap> {
    if (response.status === SUPERSEDED) throw new Superseded()
    const known = this.known.get(address)
    if (known) return known
    const bitmap = await decoded(await response.blob())
    this.warnings.set(bitmap, warningsIn(response.headers))
    this.known.set(address, bitmap)
    this.bytes += bytesOf(bitmap)
    for (const [oldest, dropped] of this.known) {
      if (this.bytes <= MOST_BYTES || dropped === bitmap) break
      this.bytes -= bytesOf(dropped)
      this.known.delete(oldest)
      dropped.close()
    }
    return bitmap
  }
}

function bytesOf({ width, height }: ImageBitmap): number {
  return 4 * width * height
}

function lookAtOnce(
  bench: string,
  order: number,
  of: Of,
  picture: object,
  how: How,
  signal?: AbortSignal,
): Promise<Response> {
  return answerTo('/api/v1/preview/look', {
    method: 'POST',
    signal,
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({
      bench,
      order,
      shot: of.shotId,
      recipe: of.recipe,
      picture,
      alone: of.alone ?? [],
      ...how,
    }),
  })
}

/** One picture by itself, which belongs to whoever asked for it. */
export async function pictureOf(of: Of, picture: object): Promise<ImageBitmap> {
  for (;;) {
    const response = await lookAtOnce('alone', 0, of, picture, { whole: true })
    if (!response.headers.has('X-Share')) return decoded(await response.blob())
  }
}

function warningsIn(headers: Headers): Warnings {
  return {
    edges: headers.get('X-Edges')?.split(' ').filter(Boolean) ?? [],
    clipped: Number(headers.get('X-Clipped') ?? 0),
    above: Number(headers.get('X-Above') ?? 0),
    beyond: headers.get('X-Beyond')?.split(' ').filter(Boolean) ?? [],
    edge: headers.get('X-Beyond-Edge') ?? '',
    folded: Number(headers.get('X-Folded') ?? 0),
    foldAt: (headers.get('X-Fold-At') ?? '').replace(' ', ', '),
  }
}
