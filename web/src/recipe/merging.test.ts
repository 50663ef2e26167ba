import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { firstRecipe } from './edits'
import { limitedBy, repeatLayer } from './layers'
import { merged } from './merging'
import type { Layer, Node, Recipe } from './types'

const setting = (name: string, type: string, of: string | null = null) => ({ name, type, of })
const CATALOGUE = {
  sources: [
    { name: 'bolt', settings: [setting('path', 'named', 'path')] },
    { name: 'copy', settings: [setting('of', 'layer')] },
    { name: 'element', settings: [setting('of', 'element')] },
  ],
  steps: [{ name: 'warp', settings: [setting('sway', 'named', 'sway')] }],
  limits: [{ name: 'matte', settings: [setting('layer', 'layer')] }],
} as unknown as Schemas['Catalogue']

const here = firstRecipe('Here')
const other: Recipe = {
  ...firstRecipe('Other'),
  canvas: { ...here.canvas, first: 1, last: 50 },
  sways: [{ name: 'wind' }],
  paths: [{ name: 'way' }],
  finish: [{ kind: 'warp', id: 'w', sway: 'wind' }],
  layers: [
    {
      ...(firstRecipe('').layers[0] as Layer),
      first: 5,
      source: {
        kind: 'bolt',
        path: 'way',
        start: { moves: 'follow', point: 'from' },
        width: { moves: 'keys', keys: [{ frame: 5, value: 2 }] },
      },
      limits: [{ kind: 'matte', layer: 'again' }],
    },
    {
      id: 'again',
      name: 'Again',
      steps: [],
      source: {
        kind: 'copy',
        of: 'bolt',
        ahead: { moves: 'like', setting: { layer: 'bolt', setting: 'width' } },
      },
    },
  ],
}

describe('merging', () => {
  const [next, group] = merged(here, other, CATALOGUE)
  const [bolt, copy] = next.layers.slice(2)

  it('puts the layers into a group of their own, with the finish as its steps', () => {
    expect(next.layers.map((layer) => [layer.id, layer.within])).toEqual([
      ['bolt', undefined],
      ['group', undefined],
      ['bolt-2', group],
      ['again', group],
    ])
    expect(next.layers[1]).toMatchObject({ name: 'Other', steps: [{ kind: 'warp', sway: 'wind' }] })
  })

  it('names everything anew that has a name here already, wherever it is named', () => {
    expect(next.points.map((point) => point.name)).toEqual(['from', 'to', 'from 2', 'to 2'])
    expect(bolt?.source).toMatchObject({ path: 'way', start: { point: 'from 2' } })
    expect(bolt?.limits).toEqual([{ kind: 'matte', layer: 'again' }])
    expect(copy?.source).toMatchObject({ of: 'bolt-2', ahead: { setting: { layer: 'bolt-2' } } })
    const [twice] = merged(next, other, CATALOGUE)
    expect(twice.sways?.map((sway) => sway.name)).toEqual(['wind', 'wind 2'])
    expect(twice.layers.at(-2)?.source.path).toBe('way 2')
  })

  it('moves what is bound to frames to where the shot begins', () => {
    expect(bolt?.first).toBe(1005)
    expect(bolt?.source.width).toMatchObject({ keys: [{ frame: 1005, value: 2 }] })
  })

  it('leaves both recipes as they were', () => {
    expect(here).toEqual(firstRecipe('Here'))
    expect(other.layers[0]?.source.path).toBe('way')
  })
})

describe('layers made from others', () => {
  it('repeat one that is off by itself from then on', () => {
    const [repeated, id] = repeatLayer(here, 'bolt')
    expect(repeated.layers[0]).toMatchObject({ id: 'bolt', on: false })
    expect(repeated.layers[1]).toMatchObject({ id, source: { kind: 'repeat', of: 'bolt' } })
  })

  it('say what limits them', () => {
    const layer = here.layers[0] as Layer
    const limits: Node[] = [{ kind: 'ellipse' }, { kind: 'outline', path: 'Mask' }]
    expect(limitedBy(here, { ...layer, limits })).toBe('ellipse, Mask')
    expect(limitedBy(here, { ...layer, limits: [{ kind: 'matte', layer: 'bolt' }] })).toBe('Bolt')
    expect(limitedBy(here, layer)).toBe('')
  })
})
