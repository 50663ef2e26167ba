import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { firstRecipe } from './edits'
import { limitedBy, namedLayers } from './naming'
import type { Layer, Recipe } from './types'

const setting = (name: string, type: string) => ({ name, type })
const CATALOGUE = {
  sources: [{ name: 'copy', settings: [setting('of', 'layer')] }],
  steps: [{ name: 'behind', settings: [setting('by', 'layer'), setting('amount', 'number')] }],
  limits: [{ name: 'matte', settings: [setting('layer', 'layer')] }],
} as unknown as Schemas['Catalogue']

const bolt = firstRecipe('').layers[0] as Layer
const layer: Layer = {
  ...bolt,
  source: { kind: 'copy', of: 'one' },
  steps: [{ kind: 'behind', id: 'b', by: 'two', limits: [{ kind: 'matte', layer: 'three' }] }],
  limits: [{ kind: 'matte', layer: bolt.id }, { kind: 'ellipse' }, { kind: 'mask', path: 'way' }],
}
const recipe: Recipe = { ...firstRecipe(''), layers: [bolt, layer] }

describe('what layers name', () => {
  it('finds every layer that another is made from, limited or led by', () => {
    expect(namedLayers(recipe, CATALOGUE).sort()).toEqual([bolt.id, 'one', 'three', 'two'])
  })

  it('says what limits a layer by the name of a layer, a path or a shape', () => {
    expect(limitedBy(recipe, layer)).toBe(`${bolt.name}, ellipse, way`)
  })
})
