import { describe, expect, it } from 'vitest'
import { holding, panned, shownIn, tellingFrame, zoomed } from './frames'
import { strike } from './known'
import type { Layer } from './types'

const CANVAS = { width: 16, height: 9, rate: 25, first: 1001, last: 1100 }

describe('stretches of frames', () => {
  it('are all of the time unless told otherwise', () => {
    expect(shownIn(CANVAS, undefined)).toMatchObject({ first: 1001, last: 1100, length: 100 })
    expect(shownIn(CANVAS, [1051, 1100]).percent(1076)).toBe(50)
  })

  it('are sized about a frame, which stays where it is', () => {
    const half = zoomed(CANVAS, undefined, 0.5, 1050)
    expect(half).toEqual([1026, 1075])
    expect(shownIn(CANVAS, half).percent(1050.5)).toBe(49)
    expect(zoomed(CANVAS, half, 2, 1050)).toBeUndefined()
    expect(zoomed(CANVAS, undefined, 0.01, 1100)).toEqual([1093, 1100])
  })

  it('stay within the canvas when they are moved', () => {
    expect(panned(CANVAS, [1011, 1020], 5)).toEqual([1016, 1025])
    expect(panned(CANVAS, [1011, 1020], -50)).toEqual([1001, 1010])
    expect(panned(CANVAS, [1011, 1020], 500)).toEqual([1091, 1100])
  })

  it('follow a frame that leaves them', () => {
    expect(holding(CANVAS, [1011, 1020], 1015)).toEqual([1011, 1020])
    expect(holding(CANVAS, [1011, 1020], 1021)).toEqual([1021, 1030])
    expect(holding(CANVAS, [1011, 1020], 1099)).toEqual([1091, 1100])
  })

  it('have a frame on which most can be seen', () => {
    const recipe = strike('Test')
    const layer = recipe.layers[0] as Layer
    expect(tellingFrame(recipe)).toBe(1005)
    const three = [layer, { ...layer, first: 1020 }, { ...layer, first: 1030, last: 1040 }]
    expect(tellingFrame({ ...recipe, layers: three })).toBe(1034)
    expect(tellingFrame({ ...recipe, layers: [] })).toBe(1005)
  })
})
