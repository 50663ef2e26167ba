/** Server data by key: each is fetched in one place and never copied into component state. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { partKind } from '../recipe/parts'
import type { Recipe, XY } from '../recipe/types'
import { changedBy, type RecipeChange } from './changes'
import { api, got, type Schemas } from './client'

export const me = queryOptions({
  queryKey: ['me'],
  queryFn: () => got(api.GET('/api/v1/people/me')),
  staleTime: 60_000,
})

export const shots = queryOptions({
  queryKey: ['shots'],
  queryFn: () => got(api.GET('/api/v1/shots')),
})

export const shot = (id: string) =>
  queryOptions({
    queryKey: ['shots', id],
    queryFn: () => got(api.GET('/api/v1/shots/{shot_id}', { params: { path: { shot_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  })

/** What was saved of a shot; there is another as soon as its revision is another. */
export const revisions = (id: string, revision: number) =>
  queryOptions({
    queryKey: ['shots', id, 'revisions', revision],
    queryFn: () =>
      got(api.GET('/api/v1/shots/{shot_id}/revisions', { params: { path: { shot_id: id } } })),
  })

export const starters = queryOptions({
  queryKey: ['starters'],
  queryFn: () => got(api.GET('/api/v1/starters')),
  staleTime: Number.POSITIVE_INFINITY,
})

export const catalogue = queryOptions({
  queryKey: ['catalogue'],
  queryFn: () => got(api.GET('/api/v1/catalogue')),
  staleTime: Number.POSITIVE_INFINITY,
})

/** What moves in a layer, or in the finish, on every frame of a recipe. */
export const curves = (recipe: Recipe, layer: string | undefined) =>
  queryOptions({
    queryKey: ['curves', layer, recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/curves', {
          body: {
            recipe: recipe as unknown as Record<string, unknown>,
            layer: layer ?? null,
          },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
  })

/** Addresses of small pictures of a recipe: of layers, at frames, with a step tried. */
export const looks = (recipe: Recipe, wanted: Partial<Schemas['Look']>[]) =>
  queryOptions({
    queryKey: ['looks', recipe, wanted],
    queryFn: async () => {
      const body = {
        bench: 'looks',
        order: 0,
        alone: [],
        recipe: recipe as unknown as Record<string, unknown>,
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
          body: { recipe: recipe as unknown as Record<string, unknown> },
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
            recipe: recipe as unknown as Record<string, unknown>,
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

/** Timecodes of frames in a row. */
export const timecodes = (first: number, count: number, rate: number, drops: boolean) =>
  queryOptions({
    queryKey: ['timecodes', first, count, rate, drops],
    queryFn: () =>
      got(api.GET('/api/v1/timecodes', { params: { query: { first, count, rate, drops } } })),
    staleTime: Number.POSITIVE_INFINITY,
  })

/** What a recipe's picture holds at a px of its canvas. */
export const px = (recipe: Recipe, frame: number, scale: number, [x, y]: XY) =>
  queryOptions({
    queryKey: ['px', frame, scale, x, y, recipe],
    queryFn: () =>
      got(
        api.POST('/api/v1/preview/px', {
          body: { recipe: recipe as unknown as Record<string, unknown>, frame, scale, x, y },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 2000,
    retry: false,
  })

/** A layer's life and its shutter, as the recipe's own schema describes them, in the form of kinds. */
export const layerParts = queryOptions({
  queryKey: ['recipe-schema', 'layer'],
  queryFn: async () => {
    const schema = await got(api.GET('/api/v1/recipe-schema'))
    return { life: partKind(schema, 'Life'), shutter: partKind(schema, 'Shutter') }
  },
  staleTime: Number.POSITIVE_INFINITY,
})

export const formats = queryOptions({
  queryKey: ['formats'],
  queryFn: () => got(api.GET('/api/v1/renders/formats')),
  staleTime: Number.POSITIVE_INFINITY,
})

export const renders = (shotId?: string) =>
  queryOptions({
    queryKey: ['renders', shotId ?? 'all'],
    queryFn: () =>
      got(api.GET('/api/v1/renders', { params: { query: shotId ? { shot: shotId } : {} } })),
    refetchInterval: (query) => (query.state.data?.some(isUnderWay) ? 500 : 5000),
  })

export function isUnderWay(render: { state: string }): boolean {
  return render.state === 'queued' || render.state === 'running'
}
