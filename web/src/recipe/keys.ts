/** Keys of a moving value. Each function takes the keys in order of frames and gives others so. */
import type { Ease, Key, Plain } from './types'

export const SMOOTH: Ease = 'smooth'

/** With a value at a frame; a key that is there keeps its easing. */
export function withKey(keys: Key[], frame: number, value: Plain, ease?: Ease): Key[] {
  const old = keys.find((key) => key.frame === frame)
  const key: Key = { ...old, frame, value, ...(ease !== undefined && { ease }) }
  return inOrder([...keys.filter((other) => other.frame !== frame), key])
}

/** Moved by so many frames; a key that stands where one lands gives way. */
export function movedKeys(keys: Key[], frames: readonly number[], by: number): Key[] {
  const moving = new Set(frames)
  const landed = new Set(frames.map((frame) => frame + by))
  const kept = keys.filter((key) => !moving.has(key.frame) && !landed.has(key.frame))
  const moved = keys.filter((key) => moving.has(key.frame))
  return inOrder([...kept, ...moved.map((key) => ({ ...key, frame: key.frame + by }))])
}

/** Without the keys at these frames; the last one stays, as a value must be somewhere. */
export function withoutKeys(keys: Key[], frames: readonly number[]): Key[] {
  const left = keys.filter((key) => !frames.includes(key.frame))
  return left.length > 0 ? left : keys.slice(0, 1)
}

export function withEase(keys: Key[], frame: number, ease: Ease): Key[] {
  return keys.map((key) => (key.frame === frame ? { ...key, ease } : key))
}

/** Spread over another length of time, from the first key on, to whole frames. */
export function stretched(keys: Key[], length: number): Key[] {
  const first = keys[0]?.frame ?? 0
  const span = (keys.at(-1)?.frame ?? first) - first
  if (span === 0) return keys
  const taken = new Set<number>()
  return keys.flatMap((key) => {
    const frame = Math.round(first + ((key.frame - first) * length) / span)
    if (taken.has(frame)) return []
    taken.add(frame)
    return [{ ...key, frame }]
  })
}

/** Other keys laid in from a frame on. */
export function pasted(keys: Key[], copied: Key[], frame: number): Key[] {
  const begins = copied[0]?.frame ?? 0
  return copied.reduce(
    (all, key) => withKey(all, frame + key.frame - begins, key.value, key.ease),
    keys,
  )
}

/** The frame of the nearest key before or after one. */
export function nextKey(all: readonly Key[][], frame: number, way: 1 | -1): number | undefined {
  const frames = all.flatMap((keys) => keys.map((key) => key.frame))
  const ahead = frames.filter((other) => (other - frame) * way > 0)
  return ahead.sort((a, b) => (a - b) * way)[0]
}

function inOrder(keys: Key[]): Key[] {
  return keys.sort((a, b) => a.frame - b.frame)
}
