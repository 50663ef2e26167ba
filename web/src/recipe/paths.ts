/** The paths of a recipe: which a layer uses, their shape, and changes to their vertices. */
import { freeName, placeAt, shifted } from './edits'
import { isMove, type Layer, type Piece, type Recipe, type Value, type XY } from './types'

export interface Path {
  name: string
  vertices?: Piece[]
  closed?: boolean
}

export type Part = 'at' | 'arriving' | 'leaving'

/** The names of the paths that a layer's source, its steps or their limits follow. */
export function pathsOf(layer: Layer): string[] {
  const nodes = [layer.source, ...layer.steps]
  const limits = [...(layer.limits ?? []), ...layer.steps.flatMap((step) => step.limits ?? [])]
  const names = [...nodes, ...limits].map((node) => node.path)
  return [...new Set(names.filter((name): name is string => typeof name === 'string' && !!name))]
}

export function pathNamed(recipe: Recipe, name: string): Path | undefined {
  return (recipe.paths as Path[] | undefined)?.find((path) => path.name === name)
}

/** Where a vertex or one of its handles is at a frame; a handle counts from its vertex. */
export function partAt(recipe: Recipe, vertex: Piece, part: Part, frame: number): XY {
  const value: Value = vertex[part] ?? [0, 0]
  return placeAt(recipe, value, frame) ?? [0, 0]
}

/** The path as SVG writes it, in px of the canvas. */
export function outline(recipe: Recipe, path: Path, frame: number): string {
  const vertices = path.vertices ?? []
  const at = (vertex: Piece) => partAt(recipe, vertex, 'at', frame)
  const handle = (vertex: Piece, part: Part) => sum(at(vertex), partAt(recipe, vertex, part, frame))
  const first = vertices[0]
  if (!first) return ''
  const ends = path.closed === false ? vertices.slice(1) : [...vertices.slice(1), first]
  const curves = ends.map((next, i) => {
    const from = vertices[i] ?? first
    return `C${handle(from, 'leaving')} ${handle(next, 'arriving')} ${at(next)}`
  })
  return `M${at(first)}${curves.join('')}${path.closed === false ? '' : 'Z'}`
}

/** Lines from the vertices to their handles, as SVG writes them. */
export function handleLines(recipe: Recipe, path: Path, frame: number): string {
  const lines = (path.vertices ?? []).flatMap((vertex) => {
    const at = partAt(recipe, vertex, 'at', frame)
    return (['arriving', 'leaving'] as const)
      .filter((part) => vertex[part] !== undefined)
      .map((part) => `M${at}L${sum(at, partAt(recipe, vertex, part, frame))}`)
  })
  return lines.join('')
}

export function moveVertex(recipe: Recipe, name: string, i: number, part: Part, by: XY): Recipe {
  return withVertices(recipe, name, (vertices) =>
    vertices.map((vertex, k) =>
      k === i ? { ...vertex, [part]: shifted(vertex[part] ?? [0, 0], by) } : vertex,
    ),
  )
}

/** Another vertex between one and the next, half way. */
export function splitAfter(recipe: Recipe, name: string, i: number, frame: number): Recipe {
  return withVertices(recipe, name, (vertices) => {
    const [one, next] = [vertices[i], vertices[(i + 1) % vertices.length]]
    if (!one || !next) return vertices
    const [a, b] = [partAt(recipe, one, 'at', frame), partAt(recipe, next, 'at', frame)]
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
export function turned(recipe: Recipe, name: string, i: number, frame: number): Recipe {
  return withVertices(recipe, name, (vertices) =>
    vertices.map((vertex, k) => {
      if (k !== i) return vertex
      if (vertex.leaving !== undefined || vertex.arriving !== undefined) {
        return { at: vertex.at ?? [0, 0] }
      }
      const count = vertices.length
      const [before, after] = [vertices[(i + count - 1) % count], vertices[(i + 1) % count]]
      if (!before || !after) return vertex
      const [a, b] = [partAt(recipe, before, 'at', frame), partAt(recipe, after, 'at', frame)]
      const along: XY = [Math.round((b[0] - a[0]) / 5), Math.round((b[1] - a[1]) / 5)]
      return { ...vertex, arriving: [-along[0] || 0, -along[1] || 0], leaving: along }
    }),
  )
}

/** A closed path through places drawn by hand, and its name. */
export function addPath(recipe: Recipe, places: XY[]): [Recipe, string] {
  const paths = recipe.paths ?? []
  const name = freeName(
    'Mask',
    paths.map((path) => path.name),
    ' ',
  )
  const path = { name, closed: true, vertices: places.map((at) => ({ at })) }
  return [{ ...recipe, paths: [...paths, path] }, name]
}

/** Whether a vertex stands where it was put, so that it may be dragged. */
export function isStill(vertex: Piece): boolean {
  return !isMove(vertex.at ?? [0, 0])
}

function withVertices(recipe: Recipe, name: string, change: (all: Piece[]) => Piece[]): Recipe {
  const paths = (recipe.paths as Path[] | undefined)?.map((path) =>
    path.name === name ? { ...path, vertices: change(path.vertices ?? []) } : path,
  )
  return { ...recipe, ...(paths && { paths }) }
}

function sum([x, y]: XY, [dx, dy]: XY): XY {
  return [x + dx, y + dy]
}
