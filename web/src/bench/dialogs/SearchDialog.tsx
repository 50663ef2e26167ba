import { useQuery } from '@tanstack/react-query'
import { type KeyboardEvent, useState } from 'react'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { RESULT } from '../../recipe/edits'
import { spoken } from '../../recipe/sentence'
import type { KindEntry, Layer, Recipe } from '../../recipe/types'
import { Dialog } from '../../ui/Dialog'
import { make } from '../editing/make'
import { useBenchParts } from '../editing/store'
import { type Action, matching } from './matching'

const MOST_SHOWN = 12

/** Everything that can be done or changed, by what is typed. */
export function SearchDialog({ onClose, actions }: { onClose(): void; actions: Action[] }) {
  const recipe = useDocument((store) => store.recipe)
  const { chosen, set } = useBenchParts('chosen', 'set')
  const catalogue = useQuery(catalogueQuery).data
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  if (!recipe || !catalogue) return null
  const open = recipe

  const sources = catalogue.sources.filter((kind) => kind.name !== 'element')
  const all: Action[] = [
    ...open.layers.map((layer) => ({
      says: layer.name,
      of: 'layer',
      run: () => set({ chosen: layer.id }),
    })),
    ...settingsIn(open, catalogue.sources, catalogue.steps, (layer, name) => {
      set({ chosen: layer.id })
      window.setTimeout(() => reveal(name), 60)
    }),
    ...actions,
    ...sources.map((kind) => ({
      says: `Add ${kind.title}`,
      of: 'new layer',
      run: async () => {
        const title = kind.title.toLowerCase()
        const made = await make(`add ${title}`, { does: 'add a layer', kind: kind.name })
        if (made) set({ chosen: made })
      },
    })),
    ...catalogue.steps.map((kind) => ({
      says: `Add ${kind.title}`,
      of: chosen === RESULT ? 'step of the result' : 'step',
      run: () =>
        chosen &&
        void make(`add ${kind.name}`, {
          does: 'add a step',
          layer: chosen === RESULT ? null : chosen,
          kind: kind.name,
        }),
    })),
  ]
  const found = matching(all, text).slice(0, MOST_SHOWN)
  const picked = found[Math.min(at, found.length - 1)]

  function run(action: Action | undefined) {
    if (!action) return
    onClose()
    action.run()
  }
  function press(event: KeyboardEvent) {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (by) {
      event.preventDefault()
      setAt((at + by + found.length) % Math.max(1, found.length))
    } else if (event.key === 'Enter') {
      event.preventDefault()
      run(picked)
    }
  }

  return (
    <Dialog title="Search" open onClose={onClose}>
      <input
        role="combobox"
        aria-label="Search actions and settings"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={picked && `found-${found.indexOf(picked)}`}
        value={text}
        placeholder="width, add glow, undo …"
        onChange={(event) => {
          setText(event.target.value)
          setAt(0)
        }}
        onKeyDown={press}
        className="h-9 w-full rounded-lg border border-line bg-ground px-3"
      />
      <div id="found" role="listbox" aria-label="Found" className="mt-2">
        {found.map((action, i) => (
          <div
            key={`${action.says} ${action.of ?? ''}`}
            id={`found-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={action === picked}
            onPointerMove={() => setAt(i)}
            onClick={() => run(action)}
            onKeyDown={press}
            className={`flex cursor-default justify-between rounded-lg px-3 py-1.5 text-sm ${action === picked ? 'bg-pressed' : ''}`}
          >
            <span>{action.says}</span>
            <span className="text-quiet">{action.of}</span>
          </div>
        ))}
        {found.length === 0 && (
          <p className="px-3 py-2 text-sm text-quiet">Nothing is called that.</p>
        )}
      </div>
    </Dialog>
  )
}

function settingsIn(
  recipe: Recipe,
  sources: KindEntry[],
  steps: KindEntry[],
  go: (layer: Layer, name: string) => void,
): Action[] {
  return recipe.layers.flatMap((layer) =>
    [layer.source, ...layer.steps].flatMap((node) => {
      const kind = [...sources, ...steps].find((known) => known.name === node.kind)
      const names = kind?.settings.map((setting) => spoken(setting.name)) ?? []
      return names.map((name) => ({
        says: `${name} of ${kind?.title.toLowerCase()}`,
        of: layer.name,
        run: () => go(layer, name),
      }))
    }),
  )
}

/** Bring a setting of the chosen layer to the eye and to the keyboard. */
function reveal(name: string) {
  const panel = document.querySelector('aside[aria-label="Recipe"]')
  const value = () =>
    [...(panel?.querySelectorAll<HTMLElement>('button, select') ?? [])].find((each) =>
      each.ariaLabel?.startsWith(name),
    )
  if (!value()) {
    for (const more of panel?.querySelectorAll<HTMLElement>('[aria-expanded=false]') ?? []) {
      if (more.textContent?.includes('more settings')) more.click()
    }
  }
  window.setTimeout(() => {
    value()?.scrollIntoView({ block: 'center' })
    value()?.focus()
  }, 60)
}
