/** Parts of a layer that the recipe's schema declares, in the form in which kinds are declared. */
import type { KindEntry, Setting } from './types'

interface Property {
  type?: string
  default: number
  description: string
  minimum?: number
  maximum?: number
  unit?: string
  usual?: [number, number]
}

interface RecipeSchema {
  $defs: Record<string, { says: string; description: string; properties: Record<string, Property> }>
}

/** A part such as `Life`; only its numbers are in the sentence. */
export function partKind(schema: unknown, part: string): KindEntry {
  const declared = (schema as RecipeSchema).$defs[part]
  if (!declared) throw new Error(`the recipe has no part ${part}`)
  const { says, description, properties } = declared
  const settings = Object.entries(properties)
    .filter(([, property]) => property.unit !== undefined)
    .map(
      ([name, property]): Setting => ({
        name,
        type: property.type === 'integer' ? 'whole' : 'number',
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
  const plain = { family: 'layer', outline: '', example: {} }
  return { name: part.toLowerCase(), title: part, help, says, settings, ...plain }
}
