/** Marked frames of a recipe, one to a frame, in order. */
import type { Marker, Recipe } from './types'

export function markedAt(recipe: Recipe, frame: number): Marker | undefined {
  return recipe.markers?.find((marker) => marker.frame === frame)
}

export function withMarker(recipe: Recipe, marker: Marker): Recipe {
  const others = recipe.markers?.filter(({ frame }) => frame !== marker.frame) ?? []
  return { ...recipe, markers: [...others, marker].sort((a, b) => a.frame - b.frame) }
}

export function withoutMarker(recipe: Recipe, frame: number): Recipe {
  return { ...recipe, markers: recipe.markers?.filter((marker) => marker.frame !== frame) ?? [] }
}
