import { describe, expect, it } from 'vitest'
import {
  beginsAt,
  changeElement,
  changeLayer,
  changeNode,
  elapsedAt,
  firstRecipe,
  moveLayer,
  placeAt,
  RESULT,
  removeStep,
  setPoint,
  shifted,
} from './edits'
import { complete, type Layer, type Recipe } from './types'

const recipe = firstRecipe('Test')
const only = (all: Recipe) => all.layers[0] as Layer

/** A change must leave what it was given as it is: undo depends on it. */
function unchanged(change: (all: Recipe) => unknown) {
  const before = structuredClone(recipe)
  change(recipe)
  expect(recipe).toEqual(before)
}

describe('changes of nodes and layers', () => {
  it('changes a setting of the source and of a step', () => {
    expect(only(changeNode(recipe, { layer: 'bolt' }, { width: 9 })).source.width).toBe(9)
    const glowing = changeNode(recipe, { layer: 'bolt', step: 'glow' }, { threshold: 3 })
    expect(only(glowing).steps[0]?.threshold).toBe(3)
    expect(only(glowing).source.threshold).toBeUndefined()
  })

  it('leaves other layers and the original alone', () => {
    expect(changeNode(recipe, { layer: 'other' }, { width: 9 }).layers).toEqual(recipe.layers)
    unchanged((all) => changeNode(all, { layer: 'bolt' }, { width: 9 }))
    unchanged((all) => changeLayer(all, 'bolt', { on: false }))
    unchanged((all) => setPoint(all, 'from', [5, 5]))
  })

  it('adds steps to the result, changes them and takes them out', () => {
    const graded = changeNode(
      { ...recipe, finish: [{ kind: 'grade', id: 'grade' }] },
      { layer: RESULT, step: 'grade' },
      { gain: 2 },
    )
    expect(graded.finish).toEqual([{ kind: 'grade', id: 'grade', gain: 2 }])
    expect(graded.layers).toBe(recipe.layers)
    expect(removeStep(graded, RESULT, 'grade').finish).toEqual([])
  })

  it('moves a layer in the sum, as far as there are places', () => {
    const two = { ...recipe, layers: [only(recipe), { ...only(recipe), id: 'bolt-2' }] }
    const ids = (all: Recipe) => all.layers.map((layer) => layer.id)
    expect(ids(moveLayer(two, 'bolt', 1))).toEqual(['bolt-2', 'bolt'])
    expect(ids(moveLayer(two, 'bolt', 9))).toEqual(['bolt-2', 'bolt'])
    expect(ids(moveLayer(two, 'bolt', -1))).toEqual(['bolt', 'bolt-2'])
  })
})

describe('points in time', () => {
  const moving: Recipe = {
    ...recipe,
    points: [{ name: 'mast', at: { moves: 'rate', start: [100, 50], per_second: [-10, 4] } }],
  }

  it('finds a still, a moving and a followed point at a frame', () => {
    const second = recipe.canvas.first + recipe.canvas.rate
    expect(placeAt(recipe, [3, 4], 1001)).toEqual([3, 4])
    expect(placeAt(moving, { moves: 'follow', point: 'mast' }, second)).toEqual([90, 54])
    const beside = { moves: 'follow', point: 'mast', offset: [1, 2] } as const
    expect(placeAt(moving, { ...beside, offset: [1, 2] }, second)).toEqual([91, 56])
    expect(placeAt(moving, { moves: 'follow', point: 'gone' }, second)).toBeUndefined()
  })

  it('counts seconds from the first frame, and the offset ahead', () => {
    const rate = { moves: 'rate', start: 0, per_second: 1, offset: 2 } as const
    expect(elapsedAt(recipe, rate, recipe.canvas.first + 50)).toBeCloseTo(4)
  })

  it('counts from where its layer begins if it is told to', () => {
    const rate = { moves: 'rate', start: 0, per_second: 1, since: 'layer' } as const
    const late = changeLayer(recipe, 'bolt', { first: recipe.canvas.first + 25 })
    const begins = beginsAt(late, 'bolt')
    expect(elapsedAt(late, rate, recipe.canvas.first + 50, begins)).toBeCloseTo(1)
    expect(beginsAt(late, 'nobody')).toBe(recipe.canvas.first)
  })

  it('moves what is still, where a rate starts, and how far a follower is off', () => {
    expect(shifted([1, 2], [3, 4])).toEqual([4, 6])
    expect(shifted(moving.points[0]?.at ?? 0, [5, -5])).toEqual({
      moves: 'rate',
      start: [105, 45],
      per_second: [-10, 4],
    })
    expect(shifted({ moves: 'follow', point: 'mast' }, [1.26, 0])).toEqual({
      moves: 'follow',
      point: 'mast',
      offset: [1.3, 0],
    })
  })

  it('sets a key at a moment, or moves all keys', () => {
    const keys = (...all: [number, number, number][]) => ({
      moves: 'keys' as const,
      keys: all.map(([frame, x, y]) => ({ frame, value: [x, y] as [number, number] })),
    })
    const path = keys([1, 0, 0], [9, 80, 0])
    expect(shifted(path, [1, 1])).toEqual(keys([1, 1, 1], [9, 81, 1]))
    const moment = { frame: 5, at: [40, 0] as [number, number] }
    expect(shifted(path, [1, 1], moment)).toEqual(keys([1, 0, 0], [5, 41, 1], [9, 80, 0]))
  })
})

describe('recipes from the server', () => {
  it('fills in what was left out', () => {
    const whole = complete({ version: 1, name: 'Bare', layers: [{ id: 'a', name: 'A' }] })
    expect(whole.canvas).toEqual({ width: 1920, height: 1080, rate: 25, first: 1001, last: 1075 })
    expect(whole.layers[0]?.steps).toEqual([])
    expect(whole.points).toEqual([])
    expect(complete({ canvas: { width: 640 } }).canvas.height).toBe(1080)
  })
})

describe('elements', () => {
  it('takes a newer revision only of the one named', () => {
    const old = { shot: 'x', revision: 1, recipe: {} }
    const two = {
      ...recipe,
      elements: [
        { ...old, name: 'Bar' },
        { ...old, name: 'Rod' },
      ],
    }
    const newer = changeElement(two, 'Bar', { id: 'x', name: 'Bar', revision: 4, recipe: { a: 1 } })
    expect(newer.elements?.map(({ revision }) => revision)).toEqual([4, 1])
    expect(newer.elements?.[0]?.recipe).toEqual({ a: 1 })
  })
})
