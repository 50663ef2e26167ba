/** What values in a sentence, and the pictures of several alike, are given. */
import { type Piece, type Recipe, type Setting, type Value, valueIn } from '../../recipe/types'
import type { Where } from '../../recipe/where'

export interface ValueProps {
  setting: Setting
  value: Value
  /** What keeps this value apart from every other, for undo. */
  id: string
  /** Where it is, if it may move. */
  where?: Where
  /** What it is called, if there are several of its name. */
  label?: string
  onPut(recipe: Recipe, value: Value): Recipe
}

/** Several alike instead of one value. */
export type PiecesProps = Omit<ValueProps, 'value' | 'label'> & { value: Piece[] }

/** What the pictures of a list of pieces are given, and can ask for. */
export interface PictureProps {
  pieces: Piece[]
  /** The declared setting for the place of a piece, its first, and that for its height. */
  along: Setting
  up: Setting | undefined
  chosen: number
  label: string
  onChoose(index: number): void
  onChange(pieces: Piece[], gesture?: string): void
  onAdd(piece: Piece): void
  onSettle(): void
}

/** The still number of a piece, or what its setting is at first. */
export function numberIn(piece: Piece, setting: Setting): number {
  const value = valueIn(piece, setting)
  return typeof value === 'number' ? value : (setting.default as number)
}
