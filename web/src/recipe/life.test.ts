import { describe, expect, it } from 'vitest'
import { changeLife } from './edits'
import { strike } from './known'
import { envelope } from './life'
import type { Layer } from './types'

const recipe = strike('Test')
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
