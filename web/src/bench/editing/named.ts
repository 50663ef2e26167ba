/** What a recipe shares by name, renamed and removed by the engine wherever it is named. */

import type { RecipeChange } from '../../recipe/asking'
import type { XY } from '../../recipe/types'
import { make } from './make'

export type Shared = Extract<RecipeChange, { does: 'rename' }>['what']

/** Without it; what followed it stays at a place. */
export function remove(what: Shared, name: string, place: XY = [0, 0]) {
  void make(`remove ${name}`, { does: 'remove', what, name, place })
}

export function rename(what: Shared, name: string, to: string) {
  void make(`rename ${name}`, { does: 'rename', what, name, to })
}
