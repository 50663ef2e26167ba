import { type PointerEvent, useState } from 'react'

const STOPS = 16

interface Props {
  /** The picture's address while nobody points at it. */
  still: string | undefined
  /** Its address at a share of its time, from 0 to 1. */
  at(share: number): string | undefined
}

/** A small picture that the pointer moves in time, from its left edge to its right one. */
export function MovingPicture({ still, at }: Props) {
  const [share, setShare] = useState<number>()

  function scrub(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    setShare(Math.floor(((event.clientX - box.left) / box.width) * STOPS) / STOPS)
  }

  return (
    <img
      src={(share === undefined ? undefined : at(share)) ?? still}
      alt=""
      width={480}
      height={270}
      loading="lazy"
      onPointerMove={scrub}
      onPointerLeave={() => setShare(undefined)}
      className="aspect-video w-full bg-black object-contain"
    />
  )
}

/** The address of a picture that the server tells by frame, at a share of the time. */
export function byFrame(address: string, first: number, last: number) {
  const gap = address.includes('?') ? '&' : '?'
  return {
    still: address,
    at: (share: number) => `${address}${gap}frame=${Math.round(first + share * (last - first))}`,
  }
}
