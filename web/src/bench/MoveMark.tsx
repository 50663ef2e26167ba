const PATHS: Record<string, string> = {
  rate: 'M2.5 9.5l6.5-7M4.5 2.3H9v4.5',
  follow: 'M6 1v3M6 8v3M1 6h3M8 6h3M6 4.6a1.4 1.4 0 100 2.8 1.4 1.4 0 000-2.8',
}

/** A small mark for how a value moves. */
export function MoveMark({ way }: { way: string }) {
  return (
    <svg
      aria-hidden="true"
      viewBox="0 0 12 12"
      className="mr-0.5 inline size-3 -translate-y-px fill-none stroke-current stroke-[1.4]"
    >
      <path d={PATHS[way]} />
    </svg>
  )
}
