import { describe, expect, it } from 'vitest'
import { partKind } from './parts'

describe('parts of a layer', () => {
  it('comes from the schema of recipes, its numbers with their units', () => {
    const properties = {
      rise: { default: 0, description: 'Up.', minimum: 0, maximum: 9, unit: 'frames' },
      ease: { default: 0, description: 'Not a number.' },
    }
    const life = { says: 'Rises in {rise}.', description: 'A life.\n\nMore.', properties }
    const kind = partKind({ $defs: { Life: life } }, 'Life')
    expect(kind).toMatchObject({ title: 'Life', help: 'A life.', says: 'Rises in {rise}.' })
    expect(kind.settings).toHaveLength(1)
    expect(kind.settings[0]).toMatchObject({ name: 'rise', unit: 'frames', least: 0, most: 9 })
  })

  it('are whole where the schema says so, and there must be such a part', () => {
    const properties = {
      samples: { type: 'integer', default: 12, description: 'Many.', unit: 'pictures' },
    }
    const shutter = { says: 'Seen in {samples}.', description: 'A shutter.', properties }
    const kind = partKind({ $defs: { Shutter: shutter } }, 'Shutter')
    expect(kind.settings[0]).toMatchObject({ type: 'whole', default: 12 })
    expect(() => partKind({ $defs: {} }, 'Life')).toThrow('no part Life')
  })
})
