import { describe, expect, it } from 'vitest'
import { readNumber } from './numbers'

describe('reading numbers', () => {
  it('reads numbers as people write them', () => {
    expect(['12.5', '12,5', ' −3 ', '.5', '+7', '4.'].map((text) => readNumber(text))).toEqual([
      12.5, 12.5, -3, 0.5, 7, 4,
    ])
  })

  it('works out arithmetic, products before sums, from left to right', () => {
    expect(readNumber('80*1.5')).toBe(120)
    expect(readNumber('2+3*4')).toBe(14)
    expect(readNumber('(2+3)*4 - 10/4/5')).toBe(19.5)
    expect(readNumber('-(1920 / 2) + -1')).toBe(-961)
    expect(readNumber('3 × 4')).toBe(12)
  })

  it('does not guess', () => {
    for (const text of ['', '1 2', '2*', '(3', '3)', 'a', '1/0', '1..2', '--', '1e', 'e5'])
      expect(readNumber(text), text).toBeUndefined()
  })
})
