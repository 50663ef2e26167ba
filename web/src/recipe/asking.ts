/** What the engine is asked of a recipe, by key: its pictures, places and curves, and changes to it. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { api, got, type Schemas } from '../api/client'
import { knowMoves } from './moves'
import type { Recipe, XY } from './types'

export type RecipeChange = Schemas['Changing']['change']

/** All that a recipe can be made of. */
export const catalogue = queryOptions({
  queryKey: ['catalogue'],
  queryFn: async () => {
    const all = await got(api.GET('/api/v1/catalogue'))
    knowMoves(all.moves)
    return all
  },
  staleTime: Number.POSITIVE_INFINITY,
})

/** A recipe after a change, and what was made. */
export function changedBy(recipe: Recipe, change: RecipeChange): Promise<Schemas['ChangedRecipe']> {
  return got(api.POST('/api/v1/recipes/changed', { body: { recipe: { ...recipe }, change } }))
}

/** A recipe with what a file's text holds, and what that is called in it. */
export function broughtIn(
  recipe: Recipe,
  name: string,
  text: string,
): Promise<Schemas['BroughtIn']> {
  const body = { recipe: { ...recipe }, name, text }
  return got(api.POST('/api/v1/preview/brought-in', { body }))
}

/** Two recipes that began as one, in one. */
export function broughtTogether(
  base: Recipe,
  mine: Recipe,
  theirs: Recipe,
): Promise<Schemas['BroughtTogether']> {
  const body = { base: { ...base }, mine: { ...mine }, theirs: { ...theirs } }
  return got(api.POST('/api/v1/recipes/together', { body }))
}

/** What moves in a layer, or in the finish, on every frame of a recipe. */
export const curves = (recipe: Recipe, layer: string | undefined) =>
  queryOptions({
    queryKey: ['curves', layer, recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/curves', {
          body: {
            recipe: { ...recipe },
            layer: layer ?? null,
          },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
  })

/** Addresses of small pictures of a recipe: of layers, at frames, with a step tried. */
export const looks = (recipe: Recipe, shot: string, wanted: Partial<Schemas['Look']>[]) =>
  queryOptions({
    queryKey: ['looks', recipe, shot, wanted],
    queryFn: async () => {
      const body = {
        bench: 'looks',
        order: 0,
        alone: [],
        shot,
        recipe: { ...recipe },
        pictures: wanted as Schemas['Look'][],
      }
      const { addresses } = await got(api.POST('/api/v1/preview', { body }))
      return addresses.map((address) => `/api/v1/preview/${address}.jpg`)
    },
    gcTime: 0,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  })

/** A recipe as it would be after a change. */
export const changed = (recipe: Recipe, change: RecipeChange) =>
  queryOptions({
    queryKey: ['changed', recipe, change],
    queryFn: () => changedBy(recipe, change),
    gcTime: 0,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  })

/** How the last frame of a recipe meets its first one. */
export const seam = (recipe: Recipe) =>
  queryOptions({
    queryKey: ['seam', recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/seam', {
          body: { recipe: { ...recipe } },
        }),
      ),
    gcTime: 10_000,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  })

/** Where all that one takes hold of on the picture is at a frame. */
export const places = (recipe: Recipe, frame: number, layer: string | undefined) =>
  queryOptions({
    queryKey: ['places', layer, frame, recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/places', {
          body: {
            recipe: { ...recipe },
            frame,
            layer: layer ?? null,
          },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 2000,
    retry: false,
  })

/** The curve of the step of that name through points, at some places. */
export const curveThrough = (points: XY[], at: number[]) =>
  queryOptions({
    queryKey: ['curve', points, at],
    queryFn: () => got(api.POST('/api/v1/curve', { body: { points, at } })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  })

/** What a recipe's picture holds at a px of its canvas; with the plate of a shot where it takes that. */
export const px = (recipe: Recipe, shot: string, frame: number, scale: number, [x, y]: XY) =>
  queryOptions({
    queryKey: ['px', shot, frame, scale, x, y, recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/px', {
          body: { recipe: { ...recipe }, shot, frame, scale, x, y },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 2000,
    retry: false,
  })
