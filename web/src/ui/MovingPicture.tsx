import { type PointerEvent, useState } from 'react'
import { LastPicture } from './LastPicture'
import { ListedPicture } from './ListedPicture'

const STOPS = 16

interface Props {
  /** The picture's address while nobody points at it. */
  still: string | undefined
  /** The address of the last one there was, which is there at once. */
  last?: string
  /** Its address at a share of its time, from 0 to 1. */
  at(share: number): string | undefined
}

/**
 * A small picture that the pointer moves in time, from its left edge to its right one. Until it is
 * made the last one stands in, and a line says that it is being made.
 */
export function MovingPicture({ still, last, at }: Props) {
  const [share, setShare] = useState<number>()
  const [made, setMade] = useState<string>()

  function scrub(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    setShare(Math.floor(((event.clientX - box.left) / box.width) * STOPS) / STOPS)
  }

  return (
    <span className="relative block aspect-video w-full overflow-hidden bg-black">
      {last && made !== still && (
        <LastPicture
          src={last}
          className="absolute inset-0 h-full w-full object-contain opacity-60"
        />
      )}
      {made !== still && (
        <span
          role="status"
          className="absolute bottom-1.5 left-2 rounded-full bg-black/70 px-2 text-xs text-quiet"
        >
          Making its picture …
        </span>
      )}
      <ListedPicture
        src={(share === undefined ? undefined : at(share)) ?? still}
        width={480}
        height={270}
        onLoad={() => setMade(still)}
        onPointerMove={scrub}
        onPointerLeave={() => setShare(undefined)}
        className={`relative h-full w-full object-contain ${made === still ? '' : 'opacity-0'}`}
      />
    </span>
  )
}

/** The address of a picture that the server tells by frame, at a share of the time. */
export function byFrame(address: string, first: number, last: number) {
  const gap = address.includes('?') ? '&' : '?'
  return {
    still: address,
    last: `${address.split('?')[0]}?last`,
    at: (share: number) => `${address}${gap}frame=${Math.round(first + share * (last - first))}`,
  }
}
