/** What the bench is set to: it is about looking, not part of the recipe. */
import { create } from 'zustand'
import type { Key, Node } from '../recipe/types'
import type { View } from './pictures'

interface BenchStore {
  frame: number
  playing: boolean
  loop: boolean
  chosen: string | undefined
  view: View
  dragging: boolean
  /** Px of the screen for one of the canvas; nothing fits the whole picture in. */
  zoom: number | undefined
  /** Keys taken along from one lane to another. */
  copiedKeys: Key[]
  /** A step taken along from one layer to another. */
  copiedStep: Node | undefined
  set(change: Partial<Omit<BenchStore, 'set'>>): void
}

export const useBench = create<BenchStore>((set) => ({
  frame: 1001,
  playing: false,
  loop: true,
  chosen: undefined,
  view: { background: 'black', channel: 'picture', exposure: 0 },
  dragging: false,
  zoom: undefined,
  copiedKeys: [],
  copiedStep: undefined,
  set: (change) => set(change),
}))
