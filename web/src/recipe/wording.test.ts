import { beforeAll, describe, expect, it } from 'vitest'
import { bytesText, numberText, readNumber } from '../ui/numbers'
import { knowMoves } from './moves'
import { KNOWN } from './moves.known'
import { sentenceOf, settingsBeside, spoken } from './sentence'
import type { KindEntry, Setting } from './types'
import { valueText, withUnit } from './wording'

const width = { name: 'width', type: 'number', unit: 'px', help: 'Width.' } as Setting
const boil = { name: 'boil', type: 'number', unit: 'cycles', help: 'Boil.' } as Setting
const seed = { name: 'seed', type: 'whole', unit: '', help: 'Seed.' } as Setting
const kind = { says: 'Is {width} wide, boiling {boil}.', settings: [width, boil, seed] }

describe('sentences', () => {
  it('stand in parts, with the settings between the words', () => {
    expect(sentenceOf(kind as KindEntry)).toEqual([
      { words: 'Is ' },
      { setting: width, after: '' },
      { words: ' wide, boiling ' },
      { setting: boil, after: '.' },
    ])
    expect(settingsBeside(kind as KindEntry)).toEqual([seed])
    expect(spoken('far_end_of_it')).toBe('far end of it')
  })

  it('keep braces that name no setting', () => {
    expect(sentenceOf({ ...kind, says: '{nobody}' } as KindEntry)).toEqual([{ words: '{nobody}' }])
  })
})

describe('numbers', () => {
  it('are short, with a proper minus', () => {
    expect([1234.56, 12.345, 1.2345, 5, -0.5].map(numberText)).toEqual([
      '1235',
      '12.3',
      '1.23',
      '5',
      '−0.5',
    ])
  })

  it('carry their units', () => {
    expect(withUnit(3.5, 'px')).toBe('3.5 px')
    expect(withUnit(18, '°')).toBe('18°')
    expect(withUnit(40, '%')).toBe('40 %')
    expect(withUnit(1.5, 'stops')).toBe('+1.5 stops')
    expect(withUnit(0, '')).toBe('0')
  })

  it('are read as people type them', () => {
    expect(['12.5', ' 7 ', '1,5', '−3', '.5', '+2'].map((text) => readNumber(text))).toEqual([
      12.5, 7, 1.5, -3, 0.5, 2,
    ])
    expect(['', 'a', '1.2.3', '1e400', '*1', '3 s'].map((text) => readNumber(text))).toEqual(
      Array(6).fill(undefined),
    )
  })

  it('tell sizes of files', () => {
    expect(bytesText(2048)).toBe('2 kB')
    expect(bytesText(10.5 * 1024 * 1024)).toBe('10.5 MB')
  })
})

describe('values', () => {
  beforeAll(() => knowMoves(KNOWN))

  it('say what they are, or how they move', () => {
    expect(valueText(3.5, width)).toBe('3.5 px')
    expect(valueText([10, 20], width)).toBe('10, 20')
    expect(valueText(true, width)).toBe('on')
    expect(valueText('pinned', width)).toBe('pinned')
    expect(valueText({ moves: 'rate', start: 0, per_second: -2 }, width)).toBe('−2 px/s')
    const long = { moves: 'formula', value: 1, formula: 'still + 1750*cos(3.75 - 1.2*t)' } as const
    expect(valueText(long, width)).toBe(long.formula)
    const key = { frame: 1, value: 2 }
    expect(valueText({ moves: 'keys', keys: [key] }, width)).toBe('1 key')
    expect(valueText({ moves: 'keys', keys: [key, { ...key, frame: 2 }] }, width)).toBe('2 keys')
    expect(valueText({ moves: 'rate', start: 0, per_second: 1.2 }, boil)).toBe('1.2 /s')
    expect(valueText({ moves: 'rate', start: [0, 0], per_second: [3, 4] }, width)).toBe('3, 4 px/s')
    expect(valueText({ moves: 'follow', point: 'mast' }, width)).toBe('mast')
    const shaken = { moves: 'jitter', value: 3, amount: 2, per_second: 9 }
    expect(valueText(shaken, width)).toBe('3 px ± 2')
    const like = { moves: 'like', setting: { layer: 'bolt', setting: 'core_light' } }
    expect(valueText(like, width)).toBe('as core light of bolt')
    expect(valueText({ moves: 'life', start: 1, end: 5 }, width)).toBe('1 px to 5 px')
  })
})
