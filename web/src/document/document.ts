/** The open shot: its recipe, the way back, and how far it is saved. */
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import { api, got, type Schemas } from '../api/client'
import type { Told } from '../api/events'
import type { Recipe } from '../recipe/types'
import { type Saver, type SavingState, saverOf } from './saving'

interface Past {
  name: string
  recipe: Recipe
}

interface OpenDocument {
  shotId: string
  recipe: Recipe
  past: Past[]
  future: Past[]
  gesture: string | undefined
  saver: Saver
  /** The revision that the recipe is on top of. */
  revision: number
  saving: SavingState
}

export interface DocumentStore extends Partial<OpenDocument> {
  /** How many changes are being made by the engine. */
  changing: number
  open(shot: Schemas['ShotWhole']): void
  close(): void
  /** Change the recipe. Changes of one `gesture` in a row are one step back. */
  change(name: string, recipe: Recipe, gesture?: string): void
  /** The gesture is over: the next change is a step of its own. */
  settle(): void
  undo(): void
  redo(): void
  save(): Promise<void>
  /** Something was saved, here or elsewhere: if it is of this shot and newer, it comes in. */
  hear(told: Told): Promise<void>
}

const MOST_STEPS_BACK = 500
const FROM_ELSEWHERE = 'what was changed elsewhere'
const MOST_REMEMBERED = 60

export const useDocument = create<DocumentStore>((set, get) => {
  function show(saver: Saver) {
    const { recipe, past = [] } = get()
    if (get().saver !== saver) return
    set({ saving: saver.state, revision: saver.revision })
    if (!recipe || recipe === saver.recipe) return
    const isFirst = past.at(-1)?.name !== FROM_ELSEWHERE
    set({
      recipe: saver.recipe,
      past: isFirst ? [...past, { name: FROM_ELSEWHERE, recipe }] : past,
      future: [],
      gesture: undefined,
    })
  }
  return {
    changing: 0,
    open(shot) {
      const saver = saverOf(shot)
      const isUnsaved = !saver.isDone
      set({
        shotId: shot.id,
        recipe: saver.recipe,
        ...remembered(shot.id, saver.revision + (isUnsaved ? 1 : 0)),
        gesture: undefined,
        saver,
        saving: saver.state,
        revision: saver.revision,
      })
      saver.watchedBy(show)
      saver.resume()
    },
    close() {
      remember(get())
      const { saver } = get()
      saver?.watchedBy(undefined)
      saver?.resume()
      set({ saver: undefined })
    },
    change(name, recipe, gesture) {
      const { recipe: before, past = [], gesture: running, saver } = get()
      if (!before || before === recipe) return
      const goesOn = gesture !== undefined && gesture === running
      const kept = goesOn ? past : [...past, { name, recipe: before }].slice(-MOST_STEPS_BACK)
      set({ recipe, past: kept, future: [], gesture })
      saver?.put(recipe)
    },
    settle() {
      set({ gesture: undefined })
    },
    undo() {
      const { past = [], future = [], recipe, saver } = get()
      const last = past.at(-1)
      if (!last || !recipe) return
      set({
        recipe: last.recipe,
        past: past.slice(0, -1),
        future: [...future, { name: last.name, recipe }],
        gesture: undefined,
      })
      saver?.put(last.recipe)
    },
    redo() {
      const { past = [], future = [], recipe, saver } = get()
      const next = future.at(-1)
      if (!next || !recipe) return
      set({
        recipe: next.recipe,
        future: future.slice(0, -1),
        past: [...past, { name: next.name, recipe }],
        gesture: undefined,
      })
      saver?.put(next.recipe)
    },
    async save() {
      await get().saver?.send()
    },
    async hear({ what, id, at }) {
      const { saver } = get()
      if (!saver || (what !== 'all' && (id !== saver.shot || at <= saver.seen))) return
      const path = { shot_id: saver.shot }
      const shot = await got(api.GET('/api/v1/shots/{shot_id}', { params: { path } })).catch(
        () => undefined,
      )
      if (shot) await saver.hear(shot)
    },
  }
})

/** Some of the open document; a component that asks for these is drawn anew for no others. */
export function useDocumentParts<K extends keyof DocumentStore>(
  ...names: K[]
): Pick<DocumentStore, K> {
  return useDocument(
    useShallow(
      (all) => Object.fromEntries(names.map((name) => [name, all[name]])) as Pick<DocumentStore, K>,
    ),
  )
}

/**
 * The steps back and on, kept for this tab when the shot is left, with the revision that they lead
 * from: the next one if something is still to be saved.
 */
function remember({ shotId, revision = 0, saving, past = [], future = [] }: DocumentStore) {
  for (let kept = MOST_REMEMBERED; kept >= 1; kept = Math.floor(kept / 2)) {
    const isSaved = saving?.state === 'saved' || saving?.state === 'draft'
    const leads = isSaved ? revision : revision + 1
    const steps = { revision: leads, past: past.slice(-kept), future: future.slice(-kept) }
    try {
      window.sessionStorage.setItem(`steps of ${shotId}`, JSON.stringify(steps))
      return
    } catch {
      // there is no room for so many; fewer may do
    }
  }
}

function remembered(shotId: string, revision: number): Pick<OpenDocument, 'past' | 'future'> {
  const none = { past: [], future: [] }
  try {
    const steps = JSON.parse(window.sessionStorage.getItem(`steps of ${shotId}`) ?? 'null')
    return steps?.revision === revision ? { past: steps.past, future: steps.future } : none
  } catch {
    return none
  }
}

window.addEventListener('pagehide', () => {
  if (useDocument.getState().shotId) remember(useDocument.getState())
})
