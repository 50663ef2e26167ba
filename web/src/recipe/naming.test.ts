import { describe, expect, it } from 'vitest'
import { catalogueOf, kind, setting, strike } from './known'
import { limitedBy, namedLayers } from './naming'
import type { Layer, Recipe } from './types'

const CATALOGUE = catalogueOf({
  sources: [kind('copy', [setting('of', 'layer')])],
  steps: [kind('behind', [setting('by', 'layer'), setting('amount', 'number')])],
  limits: [kind('matte', [setting('layer', 'layer')])],
})

const bolt = strike('').layers[0] as Layer
const layer: Layer = {
  ...bolt,
  source: { kind: 'copy', of: 'one' },
  steps: [{ kind: 'behind', id: 'b', by: 'two', limits: [{ kind: 'matte', layer: 'three' }] }],
  limits: [{ kind: 'matte', layer: bolt.id }, { kind: 'ellipse' }, { kind: 'mask', path: 'way' }],
}
const recipe: Recipe = { ...strike(''), layers: [bolt, layer] }

describe('what layers name', () => {
  it('finds every layer that another is made from, limited or led by', () => {
    expect(namedLayers(recipe, CATALOGUE).sort()).toEqual([bolt.id, 'one', 'three', 'two'])
  })

  it('says what limits a layer by the name of a layer, a path or a shape', () => {
    expect(limitedBy(recipe, layer)).toBe(`${bolt.name}, ellipse, way`)
  })
})
