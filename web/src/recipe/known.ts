/** A recipe, and kinds as an engine may declare them, for tests. */
import type { Schemas } from '../api/client'
import type { KindEntry, Recipe, Setting } from './types'

/** One strike between two points. */
export function strike(name: string): Recipe {
  return {
    version: 3,
    name,
    canvas: { width: 1920, height: 1080, rate: 25, first: 1001, last: 1050 },
    seed: 1,
    cover: 'from light',
    points: [
      { name: 'from', at: [640, 90] },
      { name: 'to', at: [1240, 930] },
    ],
    layers: [
      {
        id: 'bolt',
        name: 'Bolt',
        source: {
          kind: 'bolt',
          start: { moves: 'follow', point: 'from' },
          end: { moves: 'follow', point: 'to' },
        },
        steps: [{ kind: 'glow', id: 'glow' }],
        blend: 'add',
      },
    ],
    finish: [],
  }
}

/** A setting of a type, still and without bounds but for what is said. */
export function setting(name: string, type: string, more: Partial<Setting> = {}): Setting {
  return {
    ...{ name, type, default: 0, help: '', unit: '', least: null, most: null, usual: null },
    ...{ choices: [], moves: [], drawn: null, about: '', elsewhere: false, takes: [] },
    ...{ returns: '', of: null, pieces: null },
    ...more,
  }
}

export function kind(name: string, settings: Setting[], outline = ''): KindEntry {
  return {
    ...{ name, title: name, family: '', help: '', says: '', example: {} },
    outline,
    settings,
  }
}

export function catalogueOf(kinds: Partial<Schemas['Catalogue']>): Schemas['Catalogue'] {
  return {
    ...{ sources: [], steps: [], limits: [], named: [], moves: [], blends: [], cover_rules: [] },
    layer: { opacity: setting('opacity', 'number'), life: kind('life', []), shutter: kind('', []) },
    ...kinds,
  }
}
