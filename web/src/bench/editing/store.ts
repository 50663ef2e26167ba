/** What the bench is set to: it is about looking, not part of the recipe. */
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { Key, Node, Recipe } from '../../recipe/types'
import type { View } from './view'

export type Comparing = 'off' | 'wipe' | 'beside' | 'difference'

interface BenchStore {
  frame: number
  playing: boolean
  loop: boolean
  chosen: string | undefined
  /** Layers picked beside the chosen one, to be put into a group with it. */
  marked: string[]
  /** The card of the chosen layer whose handles are on the picture: `source`, or a step's id. */
  card: string
  /** Frames that play, if not all of them. */
  range: [number, number] | undefined
  /** Frames that the ribbon shows, if not all of them. */
  shownFrames: [number, number] | undefined
  /** Frames that were shown later than they were due since play began. */
  late: number
  /** Whether lines show what is safe from being cut off. */
  safeEdges: boolean
  view: View
  dragging: boolean
  /** Ids of the layers that are looked at by themselves; renders show all. */
  alone: string[]
  /** Px of the screen for one of the canvas; nothing fits the whole picture in. */
  zoom: number | undefined
  /** A picture kept to compare others with, and how; the wipe is a share of its width. */
  kept: { bitmap: ImageBitmap; says: string } | undefined
  comparing: Comparing
  wipe: number
  /** Groups whose layers are not shown in the strip. */
  closedGroups: string[]
  /** A mask, or an open path, that is being drawn on the picture, and what becomes of it. */
  drawing: { closed: boolean; onDrawn(recipe: Recipe, path: string): Recipe } | undefined
  /** Keys taken along from one lane to another. */
  copiedKeys: Key[]
  /** A step taken along from one layer to another. */
  copiedStep: Node | undefined
  set(change: Partial<Omit<BenchStore, 'set'>>): void
}

const NOBODY: string[] = []

export const useBench = create<BenchStore>((set) => ({
  frame: 1001,
  playing: false,
  loop: true,
  chosen: undefined,
  marked: NOBODY,
  card: 'source',
  range: undefined,
  shownFrames: undefined,
  late: 0,
  safeEdges: false,
  view: { background: 'black', channel: 'picture', exposure: 0, clipping: false },
  dragging: false,
  alone: NOBODY,
  zoom: undefined,
  kept: undefined,
  comparing: 'off',
  wipe: 0.5,
  drawing: undefined,
  closedGroups: [],
  copiedKeys: [],
  copiedStep: undefined,
  set: (change) =>
    set((now) =>
      change.chosen !== undefined && change.chosen !== now.chosen
        ? { card: 'source', marked: NOBODY, ...change }
        : change,
    ),
}))

/** Some of what the bench is set to; a component that asks for these is drawn anew for no others. */
export function useBenchParts<K extends keyof BenchStore>(...names: K[]): Pick<BenchStore, K> {
  return useBench(
    useShallow(
      (all) => Object.fromEntries(names.map((name) => [name, all[name]])) as Pick<BenchStore, K>,
    ),
  )
}
