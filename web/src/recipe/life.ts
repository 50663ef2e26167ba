/** A layer's life: its declaration from the recipe's schema, and its shape. */
import type { KindEntry, Layer, Setting } from './types'

interface Property {
  default: number
  description: string
  minimum?: number
  maximum?: number
  unit?: string
  usual?: [number, number]
}

interface RecipeSchema {
  $defs: { Life: { says: string; description: string; properties: Record<string, Property> } }
}

/** Life in the form in which sources and steps are declared; only its numbers are in the sentence. */
export function lifeKind(schema: unknown): KindEntry {
  const { says, description, properties } = (schema as RecipeSchema).$defs.Life
  const settings = Object.entries(properties)
    .filter(([, property]) => property.unit !== undefined)
    .map(
      ([name, property]): Setting => ({
        name,
        type: 'number',
        default: property.default,
        help: property.description,
        unit: property.unit ?? '',
        least: property.minimum ?? null,
        most: property.maximum ?? null,
        usual: property.usual ?? null,
        choices: [],
        moves: [],
        drawn: null,
        about: '',
        of: null,
        pieces: null,
      }),
    )
  const help = description.split('\n\n')[0] ?? description
  const plain = { outline: '', example: {} }
  return { name: 'life', title: 'Life', family: 'layer', help, says, settings, ...plain }
}

/** The corners of a life's envelope as frames and levels from 0 to 1, from first to last frame. */
export function envelope(layer: Layer, first: number, last: number): [number, number][] {
  const number = (name: string, absent: number) => {
    const value = layer.life?.[name]
    return typeof value === 'number' ? value : absent
  }
  const level = number('level', 100) / 100
  const rise = number('rise', 0)
  const full = first + rise + number('peak', 0)
  const settled = full + number('settle', 0)
  const falls = last - number('fall', 0)
  const corners: [number, number][] = [
    [first, rise > 0 ? 0 : 1],
    [first + rise, 1],
    [full, 1],
    [settled, level],
    [Math.max(falls, settled), level],
    [last, number('fall', 0) > 0 ? 0 : level],
  ]
  return corners.map(([frame, height]) => [Math.min(last, frame), height])
}
