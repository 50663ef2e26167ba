import { describe, expect, it } from 'vitest'
import { strike } from './known'
import { whereIs } from './problems'

const recipe = { ...strike('Test'), finish: [{ kind: 'grain', id: 'g' }] }

describe('where a problem is', () => {
  it('is said by layer, step and setting', () => {
    expect(whereIs(recipe, 'layers[0].source.far_end')).toBe('Bolt, far end')
    expect(whereIs(recipe, 'layers[0].opacity.formula')).toBe('Bolt, opacity')
    expect(whereIs(recipe, 'layers[0].steps[0].lobes[1].radius')).toBe('Bolt, glow, lobes')
    expect(whereIs(recipe, 'layers[0].limits[0].path')).toBe('Bolt, limits')
    expect(whereIs(recipe, 'finish[0].size')).toBe('the result, grain, size')
  })

  it('is said by what is named, or by the words of the path', () => {
    expect(whereIs(recipe, 'points[1].at.point')).toBe('to, at')
    expect(whereIs(recipe, 'canvas.last')).toBe('canvas, last')
    expect(whereIs(recipe, '')).toBe('the recipe')
  })
})
