import { describe, expect, it } from 'vitest'
import {
  changeElement,
  changeLayer,
  changeNode,
  moveLayer,
  RESULT,
  removeStep,
  setPoint,
} from './edits'
import { strike } from './known'
import { complete, type Layer, type Recipe } from './types'

const recipe = strike('Test')
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
    const old = { shot: 'x', revision: 1, recipe: { version: 3 as const, name: 'Rod' } }
    const two = {
      ...recipe,
      elements: [
        { ...old, name: 'Bar' },
        { ...old, name: 'Rod' },
      ],
    }
    const newer = changeElement(two, 'Bar', {
      id: 'x',
      name: 'Bar',
      revision: 4,
      recipe: { version: 3, name: 'New' },
    })
    expect(newer.elements?.map(({ revision }) => revision)).toEqual([4, 1])
    expect(newer.elements?.[0]?.recipe).toEqual({ version: 3, name: 'New' })
  })
})
