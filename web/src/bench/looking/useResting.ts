/** A value once it has not changed for a while: what looks at it does not get in the picture's way. */
import { useEffect, useState } from 'react'

const REST_MS = 250

export function useResting<T>(value: T): T {
  const [resting, setResting] = useState(value)
  useEffect(() => {
    const timer = window.setTimeout(() => setResting(value), REST_MS)
    return () => window.clearTimeout(timer)
  }, [value])
  return resting
}
