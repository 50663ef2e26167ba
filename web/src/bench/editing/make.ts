/** Changes that need a rule, made by the engine in the open recipe. */

import { useDocument } from '../../document/document'
import { changedBy, type RecipeChange } from '../../recipe/asking'
import { complete } from '../../recipe/types'
import { useNotice } from '../../ui/Notice'

/**
 * Make a change in the recipe as it is when the change comes back: one that was made meanwhile by hand
 * is not lost. What it made is given, a layer's id, a step's or a name; a refusal is told.
 */
export async function make(
  name: string,
  change: RecipeChange,
  gesture?: string,
): Promise<string | undefined> {
  const { shotId } = useDocument.getState()
  const under = (by: number) =>
    useDocument.setState(({ changing }) => ({ changing: changing + by }))
  under(1)
  try {
    return await made(name, change, gesture, shotId)
  } catch (error) {
    useNotice.getState().tell({ says: error instanceof Error ? error.message : String(error) })
    return undefined
  } finally {
    under(-1)
  }
}

async function made(
  name: string,
  change: RecipeChange,
  gesture: string | undefined,
  shotId: string | undefined,
): Promise<string | undefined> {
  for (;;) {
    const { recipe } = useDocument.getState()
    if (!recipe) return undefined
    const changed = await changedBy(recipe, change)
    const now = useDocument.getState()
    if (now.shotId !== shotId) return undefined
    if (now.recipe !== recipe) continue
    now.change(name, complete(changed.recipe), gesture)
    return changed.made ?? undefined
  }
}
