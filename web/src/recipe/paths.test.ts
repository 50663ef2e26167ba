import { describe, expect, it } from 'vitest'
import { strike } from './known'
import {
  addPath,
  outline,
  pathNamed,
  pathsOf,
  placedPath,
  setVertex,
  splitAfter,
  turned,
  withoutVertex,
} from './paths'
import type { Layer, Path, XY } from './types'

const SQUARE: XY[] = [
  [0, 0],
  [100, 0],
  [100, 80],
  [0, 80],
]
const [recipe, name] = addPath(strike('Test'), SQUARE)
const places = (all: typeof recipe) => pathNamed(all, name)?.vertices?.map((vertex) => vertex.at)
const placed = (all: typeof recipe) => placedPath(pathNamed(all, name) as Path)

describe('paths', () => {
  it('are drawn through places, each under a name of its own', () => {
    expect(name).toBe('Mask')
    expect(places(recipe)).toEqual(SQUARE)
    expect(addPath(recipe, SQUARE)[1]).toBe('Mask 2')
  })

  it('are those that a layer, its steps and their limits name', () => {
    const layer = {
      ...recipe.layers[0],
      source: { kind: 'bolt', path: 'way' },
      limits: [{ kind: 'outline', path: name }],
      steps: [{ kind: 'blur', id: 'b', limits: [{ kind: 'outline', path: 'way' }] }],
    } as Layer
    expect(pathsOf(layer)).toEqual(['way', name])
  })

  it('change by their vertices', () => {
    expect(places(setVertex(recipe, name, 1, 'at', [105, -5]))?.[1]).toEqual([105, -5])
    expect(places(splitAfter(recipe, name, 3, placed(recipe)))).toEqual([...SQUARE, [0, 40]])
    const three = withoutVertex(recipe, name, 0)
    expect(places(three)).toEqual(SQUARE.slice(1))
    expect(places(withoutVertex(three, name, 0))).toHaveLength(3)
  })

  it('turn a corner along its neighbours, and back', () => {
    const smooth = turned(recipe, name, 1, placed(recipe))
    expect(pathNamed(smooth, name)?.vertices?.[1]).toEqual({
      at: [100, 0],
      arriving: [-20, -16],
      leaving: [20, 16],
    })
    expect(turned(smooth, name, 1, placed(smooth))).toEqual(recipe)
  })

  it('are told as SVG tells them', () => {
    expect(outline(placed(recipe))).toBe(
      'M0,0C0,0 100,0 100,0C100,0 100,80 100,80C100,80 0,80 0,80C0,80 0,0 0,0Z',
    )
  })

  it('are where they are told to be while they move', () => {
    const keys = { moves: 'keys', keys: [{ frame: 900, value: [0, 0] }] } as const
    const moving = setVertex(recipe, name, 2, 'at', { ...keys, keys: [...keys.keys] } as never)
    const path = pathNamed(moving, name) as Path
    const told = [{}, {}, { at: [64, 32] }, {}]
    expect(placedPath(path, told).vertices[2]?.at).toEqual([64, 32])
  })
})
