/** The paths of a recipe: which a layer uses, their shape, and changes to their vertices. */
import { freeName } from './edits'
import {
  isPoint,
  type Layer,
  type Path,
  type Piece,
  type Recipe,
  type Value,
  type XY,
} from './types'

export type Part = 'at' | 'arriving' | 'leaving'

/** The names of the paths that a layer's source, its steps or their limits follow. */
export function pathsOf(layer: Layer): string[] {
  const nodes = [layer.source, ...layer.steps]
  const limits = [...(layer.limits ?? []), ...layer.steps.flatMap((step) => step.limits ?? [])]
  const names = [...nodes, ...limits].map((node) => node.path)
  return [...new Set(names.filter((name): name is string => typeof name === 'string' && !!name))]
}

export function pathNamed(recipe: Recipe, name: string): Path | undefined {
  return recipe.paths?.find((path) => path.name === name)
}

/** A path at a frame: where each vertex is, and how far its handles are from it. */
export interface PlacedPath {
  vertices: Record<Part, XY>[]
  closed: boolean
}

/** A path at a frame: as it is written where it stands still, and as it is `told` where it moves. */
export function placedPath(
  path: Path,
  told?: readonly Partial<Record<string, readonly number[]>>[],
): PlacedPath {
  const place = (vertex: Piece, i: number, part: Part): XY => {
    const { [part]: value = [0, 0] as XY } = vertex
    return isPoint(value) ? value : ((told?.[i]?.[part] as XY) ?? [0, 0])
  }
  const vertices = (path.vertices ?? []).map((vertex, i) => ({
    at: place(vertex, i, 'at'),
    arriving: place(vertex, i, 'arriving'),
    leaving: place(vertex, i, 'leaving'),
  }))
  return { vertices, closed: path.closed !== false }
}

/** The path as SVG writes it, in px of the canvas. */
export function outline({ vertices, closed }: PlacedPath): string {
  const first = vertices[0]
  if (!first) return ''
  const ends = closed ? [...vertices.slice(1), first] : vertices.slice(1)
  const curves = ends.map((next, i) => {
    const from = vertices[i] ?? first
    return `C${sum(from.at, from.leaving)} ${sum(next.at, next.arriving)} ${next.at}`
  })
  return `M${first.at}${curves.join('')}${closed ? 'Z' : ''}`
}

/** Lines from the vertices to their handles, as SVG writes them. */
export function handleLines({ vertices }: PlacedPath): string {
  return vertices
    .flatMap(({ at, arriving, leaving }) => [arriving, leaving].map((way) => ({ at, way })))
    .filter(({ way }) => way[0] !== 0 || way[1] !== 0)
    .map(({ at, way }) => `M${at}L${sum(at, way)}`)
    .join('')
}

/** Put a vertex or one of its handles elsewhere. */
export function setVertex(
  recipe: Recipe,
  name: string,
  i: number,
  part: Part,
  value: Value,
): Recipe {
  return withVertices(recipe, name, (vertices) =>
    vertices.map((vertex, k) => (k === i ? { ...vertex, [part]: value } : vertex)),
  )
}

/** Another vertex between one and the next, half way. */
export function splitAfter(recipe: Recipe, name: string, i: number, placed: PlacedPath): Recipe {
  const { vertices: places } = placed
  return withVertices(recipe, name, (vertices) => {
    const [a, b] = [places[i]?.at, places[(i + 1) % places.length]?.at]
    if (!a || !b) return vertices
    const middle: XY = [Math.round((a[0] + b[0]) / 2), Math.round((a[1] + b[1]) / 2)]
    return [...vertices.slice(0, i + 1), { at: middle }, ...vertices.slice(i + 1)]
  })
}

/** Without a vertex; a line keeps two and an outline three. */
export function withoutVertex(recipe: Recipe, name: string, i: number): Recipe {
  const least = pathNamed(recipe, name)?.closed === false ? 2 : 3
  return withVertices(recipe, name, (vertices) =>
    vertices.length > least ? vertices.filter((_, k) => k !== i) : vertices,
  )
}

/** A straight corner becomes a smooth turn along its neighbours, and a turn a corner. */
export function turned(recipe: Recipe, name: string, i: number, placed: PlacedPath): Recipe {
  const { vertices: places } = placed
  return withVertices(recipe, name, (vertices) =>
    vertices.map((vertex, k) => {
      if (k !== i) return vertex
      if (vertex.leaving !== undefined || vertex.arriving !== undefined) {
        return { at: vertex.at ?? [0, 0] }
      }
      const count = places.length
      const [a, b] = [places[(i + count - 1) % count]?.at, places[(i + 1) % count]?.at]
      if (!a || !b) return vertex
      const along: XY = [Math.round((b[0] - a[0]) / 5), Math.round((b[1] - a[1]) / 5)]
      return { ...vertex, arriving: [-along[0] || 0, -along[1] || 0], leaving: along }
    }),
  )
}

/** A path through places drawn by hand, an outline if it is closed, and its name. */
export function addPath(recipe: Recipe, places: XY[], closed = true): [Recipe, string] {
  const paths = recipe.paths ?? []
  const name = freeName(
    closed ? 'Mask' : 'Path',
    paths.map((path) => path.name),
    ' ',
  )
  const path = { name, closed, vertices: places.map((at) => ({ at })) }
  return [{ ...recipe, paths: [...paths, path] }, name]
}

function withVertices(recipe: Recipe, name: string, change: (all: Piece[]) => Piece[]): Recipe {
  const paths = recipe.paths?.map((path) =>
    path.name === name ? { ...path, vertices: change(path.vertices ?? []) } : path,
  )
  return { ...recipe, ...(paths && { paths }) }
}

function sum([x, y]: XY, [dx, dy]: XY): XY {
  return [x + dx, y + dy]
}
