const PATHS: Record<string, string> = {
  rate: 'M2.5 9.5l6.5-7M4.5 2.3H9v4.5',
  follow: 'M6 2.6a3.4 3.4 0 100 6.8 3.4 3.4 0 000-6.8',
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
