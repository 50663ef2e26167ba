/** Changes to recipes that the engine makes, since they need a rule. */
import type { Recipe } from '../recipe/types'
import { api, got, type Schemas } from './client'

export type RecipeChange = Schemas['Changing']['change']

/** A recipe after a change, and what was made. */
export function changedBy(recipe: Recipe, change: RecipeChange): Promise<Schemas['ChangedRecipe']> {
  return got(api.POST('/api/v1/recipes/changed', { body: { recipe: { ...recipe }, change } }))
}
