/** Changes that need a rule, made by the engine in the open recipe. */

import { useDocument } from '../../document/document'
import { broughtIn, changedBy, type RecipeChange } from '../../recipe/asking'
import { complete, type Recipe } from '../../recipe/types'
import { useNotice } from '../../ui/Notice'

/** A recipe as the engine has changed it, and what that made. */
interface Made<T> {
  recipe: { [part: string]: unknown }
  made: T
}

/**
 * Make a change in the open recipe. What it made is given, a layer's id, a step's or a name; a refusal is told.
 */
export async function make(
  name: string,
  change: RecipeChange,
  gesture?: string,
): Promise<string | undefined> {
  const made = await inOpenRecipe(name, (recipe) => changedBy(recipe, change), tell, gesture)
  return made ?? undefined
}

/** What a file holds, brought into the open recipe: what it is called there; a refusal goes to `onRefused`. */
export function bringIn(
  file: string,
  text: string,
  onRefused: (error: unknown) => void,
): Promise<string[] | undefined> {
  const stem = file.replace(/\.[^.]*$/, '').slice(0, MOST_NAME) || file.slice(0, MOST_NAME)
  return inOpenRecipe(`bring in ${file}`, (recipe) => broughtIn(recipe, stem, text), onRefused)
}

const MOST_NAME = 70

function tell(error: unknown) {
  useNotice.getState().tell({ says: error instanceof Error ? error.message : String(error) })
}

/** Make a change in the recipe as it is when the change comes back: one that was made meanwhile by hand is not lost. */
async function inOpenRecipe<T>(
  name: string,
  change: (recipe: Recipe) => Promise<Made<T>>,
  onRefused: (error: unknown) => void,
  gesture?: string,
): Promise<T | undefined> {
  const { shotId } = useDocument.getState()
  const under = (by: number) =>
    useDocument.setState(({ changing }) => ({ changing: changing + by }))
  under(1)
  try {
    for (;;) {
      const { recipe } = useDocument.getState()
      if (!recipe) return undefined
      const changed = await change(recipe)
      const now = useDocument.getState()
      if (now.shotId !== shotId) return undefined
      if (now.recipe !== recipe) continue
      now.change(name, complete(changed.recipe), gesture)
      return changed.made
    }
  } catch (error) {
    onRefused(error)
    return undefined
  } finally {
    under(-1)
  }
}
