/** The shortcuts of the bench. */
import { useEffect } from 'react'
import { useDocument } from '../document/document'
import { changeLayer } from '../recipe/edits'
import { nextKey } from '../recipe/keys'
import { keyedValues } from '../recipe/where'
import { useBench } from './editing/store'

export const SHORTCUTS: [string, string][] = [
  ['Space', 'Play or stop'],
  ['← →', 'One frame back or on; with Shift ten'],
  ['Alt ← →', 'Previous or next key of the layer'],
  ['Home, End', 'First and last frame'],
  ['G', 'Go to a frame'],
  ['B, E', 'Begin or end the chosen layer here'],
  ['Ctrl Z', 'Undo'],
  ['Shift Ctrl Z', 'Redo'],
  ['0, 1', 'Fit the picture in, or show its true px'],
  ['/', 'Search actions and settings'],
  ['?', 'These shortcuts'],
]

export function useShortcuts(play: () => void) {
  useEffect(() => {
    function press(event: KeyboardEvent) {
      if (event.defaultPrevented) return
      const document = useDocument.getState()
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
        event.preventDefault()
        if (event.shiftKey) document.redo()
        else document.undo()
        return
      }
      if (event.ctrlKey || event.metaKey || isTaken(event)) return
      const { recipe } = document
      const bench = useBench.getState()
      if (!recipe) return
      const { first, last } = recipe.canvas
      const go = (to: number) =>
        bench.set({ frame: Math.min(last, Math.max(first, to)), playing: false })
      if (event.altKey) {
        const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key] as -1 | 1 | undefined
        const layer = recipe.layers.find((known) => known.id === bench.chosen)
        if (!way || !layer) return
        event.preventDefault()
        go(nextKey(keyedValues(layer), bench.frame, way) ?? bench.frame)
        return
      }
      const step = event.shiftKey ? 10 : 1
      const actions = new Map<string, () => void>([
        [' ', play],
        ['ArrowLeft', () => go(bench.frame - step)],
        ['ArrowRight', () => go(bench.frame + step)],
        ['Home', () => go(first)],
        ['End', () => go(last)],
        ['g', () => window.document.getElementById('frame-number')?.focus()],
        ['b', () => setEdge('first')],
        ['e', () => setEdge('last')],
        ['0', () => bench.set({ zoom: undefined })],
        ['1', () => bench.set({ zoom: 1 })],
        ['/', () => window.document.getElementById('show-search')?.click()],
        ['?', () => window.document.getElementById('show-shortcuts')?.click()],
      ])
      const action = actions.get(event.key.length === 1 ? event.key.toLowerCase() : event.key)
      if (!action) return
      event.preventDefault()
      action()
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [play])
}

function setEdge(edge: 'first' | 'last') {
  const { recipe, change } = useDocument.getState()
  const { chosen, frame } = useBench.getState()
  const layer = recipe?.layers.find((known) => known.id === chosen)
  if (!recipe || !layer) return
  const other = edge === 'first' ? layer.last : layer.first
  const span = { first: layer.first, last: layer.last, [edge]: frame }
  if (other != null && (span.last ?? other) < (span.first ?? other)) span[edge] = other
  const name = edge === 'first' ? 'begin layer here' : 'end layer here'
  change(name, changeLayer(recipe, layer.id, span))
}

const WALKS = '[data-arrows], [role=radio]'

/** Keys that the focused control uses itself. Space plays unless a button was reached by keyboard. */
function isTaken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  if (target.closest('input, select, textarea, [role=menu], [role=dialog]')) return true
  if (event.key === ' ') return target.matches('button:focus-visible, a:focus-visible')
  if (event.key.startsWith('Arrow')) return target.closest(WALKS) !== null
  return false
}
