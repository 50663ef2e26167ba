import { beforeAll, describe, expect, it } from 'vitest'
import { RESULT } from './edits'
import { type Handle, handlesOf } from './handles'
import { catalogueOf, kind, setting, strike } from './known'
import { knowMoves } from './moves'
import { KNOWN } from './moves.known'
import type { Layer, Node, Recipe, XY } from './types'

const number = (name: string, drawn: string | null, about = 'centre', value = 100, least = 0) =>
  setting(name, 'number', { default: value, unit: 'px', least, most: 5000, drawn, about })
const point = (name: string, value: XY) => setting(name, 'point', { default: value })
const ELLIPSE = kind(
  'ellipse',
  [
    point('centre', [200, 100]),
    number('width', 'width', 'centre', 80),
    number('height', 'height', 'centre', 60),
    number('turn', 'direction', 'centre', 0, -36000),
    number('feather', 'feather', '', 10),
  ],
  'ellipse',
)
const CATALOGUE = catalogueOf({
  sources: [kind('bolt', [point('start', [0, 0])])],
  steps: [
    kind('vignette', [point('centre', [50, 50]), number('radius', 'radius')]),
    kind('smear', [number('way', 'direction', '', 90, -999)]),
  ],
  limits: [ELLIPSE],
})

const SOURCE = { layer: 'bolt', card: 'source' }

function limited(limit: Partial<Node> = {}): Recipe {
  const recipe = strike('Test')
  const layer = { ...(recipe.layers[0] as Layer), limits: [{ kind: 'ellipse', ...limit } as Node] }
  return { ...recipe, points: [], layers: [layer] }
}
function find(recipe: Recipe, label: string, held = SOURCE): Handle {
  const all = handlesOf(recipe, CATALOGUE, held, 1001, undefined).handles
  return all.find((handle) => handle.label === label) as Handle
}
const limitOf = (recipe: Recipe) => recipe.layers[0]?.limits?.[0]

beforeAll(() => knowMoves(KNOWN))

describe('handles', () => {
  it('stand where the shape is', () => {
    const recipe = limited()
    expect(find(recipe, 'width').at).toEqual([240, 100])
    expect(find(recipe, 'height').at).toEqual([200, 130])
    expect(find(recipe, 'feather').at).toEqual([200, 60])
    const { outlines } = handlesOf(recipe, CATALOGUE, SOURCE, 1001, undefined)
    expect(outlines).toMatchObject([{ shape: 'ellipse', centre: [200, 100], width: 80, turn: 0 }])
  })

  it('set what they stand for by where they are put', () => {
    const put = (label: string, to: XY) => {
      const recipe = limited()
      return limitOf(find(recipe, label).moved(recipe, to, false))
    }
    expect(put('width', [300, 123])).toMatchObject({ width: 200 })
    expect(put('height', [0, 300])).toMatchObject({ height: 400 })
    expect(put('feather', [200, 50])).toMatchObject({ feather: 20 })
    expect(put('feather', [200, 200])).toMatchObject({ feather: 0 })
    expect(put('centre', [10, 20])).toMatchObject({ centre: [10, 20] })
    expect(put('turn', [200, 300])).toMatchObject({ turn: 90 })
  })

  it('turn with the shape', () => {
    const recipe = limited({ turn: 90 })
    const { at } = find(recipe, 'width')
    expect(at.map(Math.round)).toEqual([200, 140])
    const next = find(recipe, 'width').moved(recipe, [200, 150], false)
    expect(limitOf(next)?.width).toBeCloseTo(100, 5)
  })

  it('are those of the card that is held', () => {
    const recipe = limited()
    const layer = recipe.layers[0] as Layer
    const steps = [
      { kind: 'vignette', id: 'v' },
      { kind: 'smear', id: 's' },
    ]
    const more = { ...recipe, layers: [{ ...layer, steps }], finish: [{ kind: 'smear', id: 'f' }] }
    const labels = (held?: typeof SOURCE) =>
      handlesOf(more, CATALOGUE, held, 1001, undefined).handles.map((handle) => handle.label)
    expect(labels({ layer: 'bolt', card: 'v' })).toEqual(['centre', 'radius'])
    expect(labels({ layer: RESULT, card: 'f' })).toEqual(['way'])
    expect(labels(undefined)).toEqual([])
    const radius = find(more, 'radius', { layer: 'bolt', card: 'v' })
    const next = radius.moved(more, [50, 90], false)
    expect(next.layers[0]?.steps[0]).toMatchObject({ radius: 40 })
  })

  it('are about the middle of the canvas where nothing is named', () => {
    const way = find({ ...limited(), finish: [{ kind: 'smear', id: 'f' }] }, 'way', {
      layer: RESULT,
      card: 'f',
    })
    expect(way.from).toEqual([960, 540])
    expect(way.at.map(Math.round)).toEqual([960, 700])
  })

  it('of what moves are where the engine says', () => {
    const keys = { moves: 'keys', keys: [{ frame: 1, value: [0, 0] as XY }] } as const
    const recipe = limited({ centre: { ...keys, keys: [...keys.keys] } })
    const told = {
      points: {},
      tracks: {},
      paths: {},
      nodes: { 'limits/0': { centre: [70, 80] as XY } },
    }
    const { handles } = handlesOf(recipe, CATALOGUE, SOURCE, 1001, told)
    const centre = handles.find((handle) => handle.label === 'centre') as Handle
    expect(centre).toMatchObject({ at: [70, 80], isKeyed: true })
    const next = limitOf(centre.moved(recipe, [75, 80], false))
    expect(next?.centre).toMatchObject({
      keys: [
        { frame: 1, value: [0, 0] },
        { frame: 1001, value: [75, 80] },
      ],
    })
    const whole = limitOf(centre.moved(recipe, [75, 80], true))
    expect(whole?.centre).toMatchObject({ keys: [{ frame: 1, value: [5, 0] }] })
  })
})

describe('pieces', () => {
  const peg = {
    says: '{at}',
    pictured: '',
    settings: [setting('across', 'number', { default: 50, unit: '%' }), point('at', [10, 20])],
  }
  const cloth = catalogueOf({
    sources: [kind('cloth', [setting('pegs', 'pieces', { default: [], pieces: peg })])],
  })
  const pegged: Recipe = {
    ...limited(),
    layers: [
      {
        ...(limited().layers[0] as Layer),
        limits: [],
        source: { kind: 'cloth', pegs: [{ at: [30, 40] }, { across: 100 }] },
      },
    ],
  }

  it('have handles where they are, and go where these are dragged', () => {
    const { handles } = handlesOf(pegged, cloth, SOURCE, 1001, undefined)
    expect(handles.map(({ label, at }) => [label, at])).toEqual([
      ['peg 1', [30, 40]],
      ['peg 2', [10, 20]],
    ])
    const moved = (handles[1] as Handle).moved(pegged, [15, 27], false)
    expect(moved.layers[0]?.source.pegs).toEqual([{ at: [30, 40] }, { across: 100, at: [15, 27] }])
  })

  it('are where the engine tells if they move', () => {
    const still: XY = [0, 0]
    const at = { moves: 'rate', start: still, per_second: still }
    const layer = { ...(pegged.layers[0] as Layer), source: { kind: 'cloth', pegs: [{ at }] } }
    const moving = { ...pegged, layers: [layer] } as Recipe
    const places = { points: {}, tracks: {}, paths: {}, nodes: { 'source/pegs/0': { at: [7, 8] } } }
    const { handles } = handlesOf(moving, cloth, SOURCE, 1001, places as never)
    expect(handles.map(({ at }) => at)).toEqual([[7, 8]])
  })
})
