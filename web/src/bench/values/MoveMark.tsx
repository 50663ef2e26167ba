import { moveNamed } from '../../recipe/moves'

/** A small mark for how a value moves. */
export function MoveMark({ way }: { way: string }) {
  return (
    <svg
      aria-hidden="true"
      viewBox="0 0 12 12"
      className="mr-0.5 inline size-3 -translate-y-px fill-none stroke-current stroke-[1.4]"
    >
      <path d={moveNamed(way)?.mark} />
    </svg>
  )
}
