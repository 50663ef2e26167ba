const PATHS: Record<string, string> = {
  life: 'M1 10l3-7 2 3h3l2 4',
  jitter: 'M1 6l1.6-3 1.8 6 1.8-7 1.8 7 1.4-5L11 6',
  pulse: 'M1 8h2V4h3v4h2V4h3',
  formula: 'M9.5 2C7.5 1.4 6.8 2.2 6.4 4L5 9.5C4.6 11 3.6 11 2.5 10.5M3.5 5h5',
  keys: 'M1 9c4 0 5-6 10-6M1 9h.1M11 3h.1',
  rate: 'M2.5 9.5l6.5-7M4.5 2.3H9v4.5',
  like: 'M1.5 4.5h9M1.5 7.5h9',
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
