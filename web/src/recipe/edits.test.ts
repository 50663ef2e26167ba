import { describe, expect, it } from 'vitest'
import {
  addPoint,
  addStep,
  beginsAt,
  changeLayer,
  changeNode,
  elapsedAt,
  firstRecipe,
  moveLayer,
  moveStep,
  placeAt,
  RESULT,
  removeStep,
  setPoint,
  shifted,
} from './edits'
import {
  addElementLayer,
  addLayer,
  changeElement,
  duplicateLayer,
  linkLayer,
  removeLayer,
} from './layers'
import { complete, type KindEntry, type Layer, type Recipe } from './types'

const recipe = firstRecipe('Test')
/** A kind with the settings that a new layer looks for. */
const BOLT = {
  ...{ name: 'bolt', title: 'Bolt', family: 'electric', help: '', says: '' },
  settings: ['seed', 'start', 'end'].map((name) => ({ name })),
} as unknown as KindEntry
const GROUP = { ...BOLT, name: 'group', title: 'Group', family: 'layers', settings: [] }

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
    unchanged((all) => duplicateLayer(all, 'bolt'))
  })

  it('gives every step a name of its own', () => {
    const twice = addStep(addStep(recipe, 'bolt', { kind: 'glow' }), 'bolt', { kind: 'glow' })
    expect(only(twice).steps.map((step) => step.id)).toEqual(['glow', 'glow-2', 'glow-3'])
    expect(only(removeStep(twice, 'bolt', 'glow-2')).steps.map((step) => step.id)).toEqual([
      'glow',
      'glow-3',
    ])
    const copied = addStep(twice, 'bolt', { kind: 'blur', deviation: 7 })
    expect(only(copied).steps.at(-1)).toEqual({ kind: 'blur', deviation: 7, id: 'blur' })
    const moved = moveStep(copied, 'bolt', 'blur', -2)
    expect(only(moved).steps.map((step) => step.id)).toEqual(['glow', 'blur', 'glow-2', 'glow-3'])
    expect(moveStep(copied, 'bolt', 'blur', 5).layers[0]).toEqual(copied.layers[0])
  })

  it('adds steps to the result, changes them and takes them out', () => {
    const graded = changeNode(
      addStep(recipe, RESULT, { kind: 'grade' }),
      { layer: RESULT, step: 'grade' },
      { gain: 2 },
    )
    expect(graded.finish).toEqual([{ kind: 'grade', id: 'grade', gain: 2 }])
    expect(graded.layers).toBe(recipe.layers)
    expect(removeStep(graded, RESULT, 'grade').finish).toEqual([])
  })

  it('moves a layer in the sum, as far as there are places', () => {
    const [two] = addLayer(recipe, BOLT)
    const ids = (all: Recipe) => all.layers.map((layer) => layer.id)
    expect(ids(moveLayer(two, 'bolt', 1))).toEqual(['bolt-2', 'bolt'])
    expect(ids(moveLayer(two, 'bolt', 9))).toEqual(['bolt-2', 'bolt'])
    expect(ids(moveLayer(two, 'bolt', -1))).toEqual(['bolt', 'bolt-2'])
  })

  it('adds a layer that follows the points and has another seed', () => {
    const [more, id] = addLayer(recipe, BOLT)
    expect(id).toBe('bolt-2')
    expect(more.layers[1]).toMatchObject({
      name: 'Bolt 2',
      blend: 'add',
      source: { kind: 'bolt', seed: 2, start: { moves: 'follow', point: 'from' } },
    })
    expect(removeLayer(more, 'bolt').layers.map((layer) => layer.id)).toEqual(['bolt-2'])
  })

  it('adds nothing to a group that it does not have', () => {
    const [more, id] = addLayer(recipe, GROUP)
    expect(more.layers.at(-1)).toMatchObject({ id, source: { kind: 'group' }, steps: [] })
    expect(Object.keys(more.layers.at(-1)?.source ?? {})).toEqual(['kind'])
  })

  it('links a layer to another one, mixed as that is', () => {
    const faint = changeLayer(recipe, 'bolt', { opacity: 40, first: 1010 })
    const [more, id] = linkLayer(faint, 'bolt')
    expect(more.layers[1]).toMatchObject({
      ...{ id, name: 'Copy of Bolt', blend: 'add', opacity: 40, first: 1010, steps: [] },
      source: { kind: 'copy', of: 'bolt' },
    })
    const [most] = linkLayer(more, 'bolt')
    expect(new Set(most.layers.map((layer) => layer.id)).size).toBe(3)
    expect(linkLayer(recipe, 'nobody')[0]).toBe(recipe)
  })

  it('takes a layer out with all that names it', () => {
    const [linked, id] = linkLayer(recipe, 'bolt')
    const like = { moves: 'like', setting: { layer: 'bolt', setting: 'width' } } as const
    const named = changeLayer(changeNode(linked, { layer: id }, { ahead: like }), id, {
      within: 'bolt',
      limits: [{ kind: 'matte', layer: 'bolt' }],
      steps: [{ kind: 'flow', id: 'f', by: 'bolt', limits: [{ kind: 'matte', layer: 'bolt' }] }],
    })
    const left = removeLayer(named, 'bolt')
    expect(only(left)).toMatchObject({
      ...{ within: null, source: { kind: 'copy', of: '' }, limits: [{ kind: 'matte', layer: '' }] },
      steps: [{ kind: 'flow', by: '', limits: [{ layer: '' }] }],
    })
    expect(only(left).source.ahead).toBeUndefined()
    expect(named.layers).toHaveLength(2)
  })

  it('puts a copy right after its original, with another seed', () => {
    const seeded = changeNode(recipe, { layer: 'bolt' }, { seed: 7 })
    const [more, id] = duplicateLayer(addLayer(seeded, BOLT)[0], 'bolt')
    expect(more.layers.map((layer) => layer.id)).toEqual(['bolt', id, 'bolt-2'])
    expect(more.layers[1]?.source.seed).toBe(8)
    expect(duplicateLayer(recipe, 'nobody')[0]).toBe(recipe)
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

  it('adds a point under a name of its own', () => {
    const [more, name] = addPoint(addPoint(recipe, [1, 2])[0], [3.07, 4])
    expect(name).toBe('point 2')
    expect(more.points.slice(-2)).toEqual([
      { name: 'point', at: [1, 2] },
      { name: 'point 2', at: [3.1, 4] },
    ])
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
  const shot = {
    id: 'other',
    name: 'Bar',
    revision: 3,
    recipe: { version: 1, name: 'Bar', canvas: { width: 400, height: 80, rate: 50 } },
  }

  it('places a shot by its middle, at its own pace, as it is at its revision', () => {
    const [more, id] = addElementLayer(recipe, shot)
    expect(more.elements).toEqual([
      { name: 'Bar', shot: 'other', revision: 3, recipe: shot.recipe },
    ])
    expect(more.layers.at(-1)).toMatchObject({
      id,
      name: 'Bar',
      source: { kind: 'element', of: 'Bar', at: [960, 540], pivot: [200, 40] },
    })
    expect(more.layers.at(-1)?.source.frame).toMatchObject({ per_second: 50, since: 'layer' })
    expect(addElementLayer(more, shot)[0].elements?.map((element) => element.name)).toEqual([
      'Bar',
      'Bar 2',
    ])
  })

  it('takes a newer revision only of the one named', () => {
    const [twice] = addElementLayer(addElementLayer(recipe, shot)[0], shot)
    const newest = { ...shot, revision: 4, recipe: { version: 1, name: 'New' } }
    const renewed = changeElement(twice, 'Bar 2', newest)
    expect(renewed.elements?.map((element) => element.revision)).toEqual([3, 4])
  })
})
