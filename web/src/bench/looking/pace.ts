/** How large a picture may be so that a hand that drags sees it in time, on this machine. */

/** What a picture takes whatever its size: the way there and back. */
const FIXED_MS = 18
/** Within which a picture should be there while one drags. */
const WANTED_MS = 62
/** Cost goes with the px of a picture, and less than that where it has fixed parts. */
const POWER = 1.6
const NEWEST = 0.5

export const SCALES = [1 / 8, 1 / 6, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 1]

/** Learns from each picture what the next one will take. */
export class Pace {
  private cost: number | undefined

  /** A picture at a scale took so long. */
  took(scale: number, ms: number) {
    const cost = Math.max(0, ms - FIXED_MS) / scale ** POWER
    this.cost = this.cost === undefined ? cost : this.cost + NEWEST * (cost - this.cost)
  }

  /** The largest scale up to one that is there in time; the smallest one if none is. */
  scaleFor(most: number): number {
    const { cost } = this
    if (cost === undefined) return most / 2
    const inTime = (scale: number) => FIXED_MS + cost * scale ** POWER <= WANTED_MS
    if (inTime(most)) return most
    return (
      SCALES.findLast((scale) => scale < most && inTime(scale)) ?? Math.min(most, SCALES[0] ?? most)
    )
  }
}
