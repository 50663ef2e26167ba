import { describe, expect, it } from 'vitest'
import { movedKeys, nextKey, pasted, stretched, withEase, withKey, withoutKeys } from './keys'
import type { Key } from './types'

const KEYS: Key[] = [
  { frame: 10, value: 1 },
  { frame: 20, value: 2, ease: 'linear' },
  { frame: 40, value: 3 },
]
const frames = (keys: Key[]) => keys.map((key) => key.frame)

describe('keys', () => {
  it('takes a value at a frame, in order, and keeps the easing of one that was there', () => {
    expect(withKey(KEYS, 30, 9)[2]).toEqual({ frame: 30, value: 9 })
    expect(withKey(KEYS, 20, 9)[1]).toEqual({ frame: 20, value: 9, ease: 'linear' })
  })

  it('moves keys past others, which give way where one lands', () => {
    expect(frames(movedKeys(KEYS, [10], 15))).toEqual([20, 25, 40])
    expect(movedKeys(KEYS, [10], 10)).toEqual([
      { frame: 20, value: 1 },
      { frame: 40, value: 3 },
    ])
    expect(frames(movedKeys(KEYS, [10, 20], 10))).toEqual([20, 30, 40])
  })

  it('takes keys out, but never the last', () => {
    expect(frames(withoutKeys(KEYS, [20]))).toEqual([10, 40])
    expect(frames(withoutKeys(KEYS, [10, 20, 40]))).toEqual([10])
  })

  it('changes the easing of one', () => {
    expect(withEase(KEYS, 10, [0.2, 0, 0.4, 1]).map((key) => key.ease)).toEqual([
      [0.2, 0, 0.4, 1],
      'linear',
      undefined,
    ])
  })

  it('spreads over another length of time', () => {
    expect(frames(stretched(KEYS, 60))).toEqual([10, 30, 70])
    expect(frames(stretched(KEYS, 1))).toEqual([10, 11])
    expect(stretched(KEYS.slice(0, 1), 9)).toEqual(KEYS.slice(0, 1))
  })

  it('lays copied keys in from a frame on', () => {
    expect(frames(pasted(KEYS, KEYS.slice(1), 50))).toEqual([10, 20, 40, 50, 70])
  })

  it('finds the next and the previous key of all', () => {
    const all: Key[][] = [KEYS, [{ frame: 25, value: 0 }]]
    expect(nextKey(all, 20, 1)).toBe(25)
    expect(nextKey(all, 20, -1)).toBe(10)
    expect(nextKey(all, 40, 1)).toBeUndefined()
  })
})
