import { describe, expect, it } from 'vitest'
import type { Canvas } from '../../recipe/types'
import { carried } from './within'

const canvas = (first: number, last: number): Canvas => ({
  width: 1920,
  height: 1080,
  rate: 25,
  first,
  last,
})

describe('a frame when the shot has others', () => {
  it('moves where all of them move', () => {
    expect(carried(1011, canvas(1001, 1050), canvas(101, 150))).toBe(111)
    expect(carried(111, canvas(101, 150), canvas(1001, 1050))).toBe(1011)
  })
  it('stays where it is, and within, where one end moves', () => {
    expect(carried(1011, canvas(1001, 1050), canvas(1001, 1020))).toBe(1011)
    expect(carried(1040, canvas(1001, 1050), canvas(1001, 1020))).toBe(1020)
    expect(carried(1005, canvas(1001, 1050), canvas(1010, 1050))).toBe(1010)
  })
})
