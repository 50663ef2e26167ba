import { beforeAll, describe, expect, it } from 'vitest'
import { strike } from './known'
import { begun, held, knowMoves, type MoveField, namesFor, shifted } from './moves'
import { KNOWN } from './moves.known'
import type { Plain, Setting, Value, XY } from './types'

const recipe = strike('Test')
const width = { name: 'width', type: 'number', unit: 'px' } as Setting
const place = { name: 'at', type: 'point', unit: 'px' } as Setting
const tint = { name: 'tint', type: 'colour', unit: '' } as Setting

beforeAll(() => knowMoves(KNOWN))

describe('a value that is moved as a whole', () => {
  it('is set if it is still, and else changes where its way says', () => {
    expect(shifted([1, 2], [3, 4])).toEqual([4, 6])
    const rate = { moves: 'rate', start: [100, 50] as XY, per_second: [-10, 4] as XY }
    expect(shifted(rate, [5, -5])).toEqual({ ...rate, start: [105, 45] })
    expect(shifted({ moves: 'follow', point: 'mast' }, [1.26, 0])).toEqual({
      moves: 'follow',
      point: 'mast',
      offset: [1.3, 0],
    })
    expect(shifted({ moves: 'life', start: 1, end: 5 }, 2)).toMatchObject({ start: 3, end: 7 })
  })

  it('changes what it rests on, which may itself move', () => {
    const rate = { moves: 'rate', start: [10, 20] as XY, per_second: [5, 0] as XY }
    const shaken: Value = { moves: 'jitter', value: rate, amount: [9, 0], per_second: 30 }
    expect(shifted(shaken, [1, 2])).toMatchObject({ value: { start: [11, 22] } })
  })

  it('gets a key at a moment, or all of its keys move', () => {
    const keys = (...all: [number, number, number][]) => ({
      moves: 'keys',
      keys: all.map(([frame, x, y]) => ({ frame, value: [x, y] as XY })),
    })
    const path = keys([1, 0, 0], [9, 80, 0])
    expect(shifted(path, [1, 1])).toEqual(keys([1, 1, 1], [9, 81, 1]))
    const moment = { frame: 5, at: [40, 0] as XY }
    expect(shifted(path, [1, 1], moment)).toEqual(keys([1, 0, 0], [5, 41, 1], [9, 80, 0]))
  })
})

describe('a value that begins to move', () => {
  const from = (setting: Setting, now: Plain) => ({
    setting,
    now,
    frame: 7,
    recipe,
    like: undefined,
  })

  it('goes on from what it is', () => {
    expect(begun('keys', from(width, 4))).toEqual({
      moves: 'keys',
      keys: [{ frame: 7, value: 4 }],
    })
    expect(begun('rate', from(place, [1, 2]))).toEqual({
      moves: 'rate',
      start: [1, 2],
      per_second: [0, 0],
    })
    expect(begun('jitter', from(tint, '#ff0000'))).toEqual({
      ...{ moves: 'jitter', value: '#ff0000', amount: [0, 0, 0], per_second: 10 },
    })
    const least = { ...width, least: 0.5 }
    expect(begun('life', from(least, 4))).toEqual({ moves: 'life', start: 0.5, end: 4 })
    expect(begun('life', from(tint, '#ff0000'))).toEqual({
      ...{ moves: 'life', start: '#000000', end: '#ff0000' },
    })
  })

  it('names the first that there is, and waits where there is none', () => {
    expect(begun('follow', from(place, [0, 0]))).toEqual({ moves: 'follow', point: 'from' })
    const bare = { ...from(place, [0, 0]), recipe: { ...recipe, points: [] } }
    expect(begun('follow', bare)).toBeUndefined()
    const tracked = { ...recipe, points: [], tracks: [{ name: 'hand', marks: [] }] }
    expect(begun('follow', { ...bare, recipe: tracked })).toEqual({
      moves: 'follow',
      track: 'hand',
    })
    expect(begun('like', from(width, 3))).toBeUndefined()
    const like = { layer: 'bolt', setting: 'width' }
    expect(begun('like', { ...from(width, 3), like })).toEqual({ moves: 'like', setting: like })
  })
})

describe('fields of a move', () => {
  it('name points and tracks, one of both', () => {
    const tracked = { ...recipe, tracks: [{ name: 'hand', marks: [] }] }
    const field = KNOWN[4]?.fields[0] as MoveField
    expect(namesFor(field, tracked).at(-1)).toEqual({
      label: 'track hand',
      change: { point: undefined, track: 'hand' },
    })
  })

  it('are what they are where they are left out', () => {
    const offset = KNOWN[4]?.fields[1] as MoveField
    expect(held({ moves: 'follow' }, offset, place)).toEqual([0, 0])
    expect(held({ moves: 'follow', offset: [3, 4] }, offset, place)).toEqual([3, 4])
    expect(held({ moves: 'like' }, { ...offset, type: 'share' }, width)).toBe(1)
    expect(held({ moves: 'rate' }, { ...offset, absent: 'shot' }, width)).toBe('shot')
  })
})
