import { describe, expect, it } from 'vitest'
import { changeLife, firstRecipe, placeAt, shifted } from './edits'
import { envelope } from './life'
import type { Layer, Value } from './types'

const recipe = firstRecipe('Test')
const layer = recipe.layers[0] as Layer

describe('the envelope of a life', () => {
  it('is full from end to end without one', () => {
    const heights = envelope(layer, 10, 30).map(([, height]) => height)
    expect(new Set(heights)).toEqual(new Set([1]))
  })

  it('rises, settles, holds and falls at its frames', () => {
    const flare = { ...layer, life: { rise: 2, settle: 3, level: 50, fall: 4 } }
    expect(envelope(flare, 10, 30)).toEqual([
      [10, 0],
      [12, 1],
      [12, 1],
      [15, 0.5],
      [26, 0.5],
      [30, 0],
    ])
  })

  it('stays within a layer that is shorter than its life', () => {
    const long = { ...layer, life: { rise: 50, settle: 50 } }
    for (const [frame] of envelope(long, 10, 30)) expect(frame).toBeLessThanOrEqual(30)
  })

  it('is changed part by part', () => {
    const once = changeLife(recipe, 'bolt', 'rise', 3)
    const twice = changeLife(once, 'bolt', 'fall', 5)
    expect(twice.layers[0]?.life).toEqual({ rise: 3, fall: 5 })
    expect(recipe.layers[0]?.life).toBeUndefined()
  })
})

describe('points that move in other ways', () => {
  const rate = { moves: 'rate', start: [10, 20], per_second: [5, 0] } as const
  const jitter = { moves: 'jitter', amount: [9, 0], per_second: 30 } as const
  const start: [number, number] = [10, 20]
  const shaken: Value = { ...jitter, amount: [9, 0], value: { ...rate, start, per_second: [5, 0] } }

  it('are shown where they rest', () => {
    expect(placeAt(recipe, shaken, 1026)).toEqual([15, 20])
    expect(placeAt(recipe, { moves: 'life', start: [0, 0], end: [1, 1] }, 1001)).toBeUndefined()
  })

  it('are moved as a whole', () => {
    expect(shifted(shaken, [1, 2])).toMatchObject({ value: { start: [11, 22] } })
    const keys: Value = { moves: 'keys', keys: [{ frame: 1, value: [0, 0] }] }
    expect(shifted(keys, [3, 4])).toMatchObject({ keys: [{ frame: 1, value: [3, 4] }] })
    expect(placeAt(recipe, keys, 1)).toEqual([0, 0])
  })
})
