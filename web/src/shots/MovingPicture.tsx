import { type PointerEvent, useState } from 'react'

const STOPS = 16

interface Props {
  /** The picture's address, to which a frame is added. */
  address: string
  first: number
  last: number
}

/** A small picture that the pointer moves in time, from its left edge to its right one. */
export function MovingPicture({ address, first, last }: Props) {
  const [frame, setFrame] = useState<number>()
  const gap = address.includes('?') ? '&' : '?'

  function scrub(event: PointerEvent<HTMLElement>) {
    const box = event.currentTarget.getBoundingClientRect()
    const share = Math.floor(((event.clientX - box.left) / box.width) * STOPS) / STOPS
    setFrame(Math.round(first + share * (last - first)))
  }

  return (
    <img
      src={frame === undefined ? address : `${address}${gap}frame=${frame}`}
      alt=""
      width={480}
      height={270}
      loading="lazy"
      onPointerMove={scrub}
      onPointerLeave={() => setFrame(undefined)}
      className="aspect-video w-full object-contain"
    />
  )
}
