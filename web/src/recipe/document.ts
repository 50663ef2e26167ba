/** The open shot: its recipe, the way back, and how far it is saved. */
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import { api, got, type Problem, pageToken, Refused, type Schemas } from '../api/client'
import { complete, type Recipe } from './types'

export type Saving =
  | { state: 'saved' | 'waiting' | 'saving' }
  | { state: 'failed'; says: string; problems: Problem[] }
  | { state: 'stale'; revision: number; theirs: Recipe }

interface Past {
  name: string
  recipe: Recipe
}

interface OpenDocument {
  shotId: string
  revision: number
  recipe: Recipe
  past: Past[]
  future: Past[]
  gesture: string | undefined
  saving: Saving
}

export interface DocumentStore extends Partial<OpenDocument> {
  open(shot: Schemas['ShotWhole']): void
  close(): void
  /** Change the recipe. Changes of one `gesture` in a row are one step back. */
  change(name: string, recipe: Recipe, gesture?: string): void
  /** The gesture is over: the next change is a step of its own. */
  settle(): void
  undo(): void
  redo(): void
  save(): Promise<void>
  takeTheirs(): void
  saveOver(): Promise<void>
}

const SAVE_AFTER_MS = 600
const RETRY_AFTER_MS = 4000
const MOST_STEPS_BACK = 500
const MOST_REMEMBERED = 60

let timer: number | undefined

function later(save: () => void, wait: number) {
  window.clearTimeout(timer)
  timer = window.setTimeout(save, wait)
}

export const useDocument = create<DocumentStore>((set, get) => ({
  open(shot) {
    window.clearTimeout(timer)
    set({
      shotId: shot.id,
      revision: shot.revision,
      recipe: complete(shot.recipe),
      ...remembered(shot.id, shot.revision),
      gesture: undefined,
      saving: { state: 'saved' },
    })
  },
  close() {
    const { saving, save } = get()
    remember(get())
    if (saving?.state === 'waiting') void save()
    window.clearTimeout(timer)
  },
  change(name, recipe, gesture) {
    const { recipe: before, past = [], gesture: running, saving } = get()
    if (!before || before === recipe) return
    const goesOn = gesture !== undefined && gesture === running
    const kept = goesOn ? past : [...past, { name, recipe: before }].slice(-MOST_STEPS_BACK)
    const next: Saving = saving?.state === 'stale' ? saving : { state: 'waiting' }
    set({ recipe, past: kept, future: [], gesture, saving: next })
    if (next.state === 'waiting') later(() => void get().save(), SAVE_AFTER_MS)
  },
  settle() {
    set({ gesture: undefined })
  },
  undo() {
    const { past = [], future = [], recipe } = get()
    const last = past.at(-1)
    if (!last || !recipe) return
    set({
      recipe: last.recipe,
      past: past.slice(0, -1),
      future: [...future, { name: last.name, recipe }],
      gesture: undefined,
      saving: { state: 'waiting' },
    })
    later(() => void get().save(), SAVE_AFTER_MS)
  },
  redo() {
    const { past = [], future = [], recipe } = get()
    const next = future.at(-1)
    if (!next || !recipe) return
    set({
      recipe: next.recipe,
      future: future.slice(0, -1),
      past: [...past, { name: next.name, recipe }],
      gesture: undefined,
      saving: { state: 'waiting' },
    })
    later(() => void get().save(), SAVE_AFTER_MS)
  },
  async save() {
    const { shotId, revision, recipe, saving } = get()
    if (!shotId || !revision || !recipe || saving?.state === 'saving') return
    set({ saving: { state: 'saving' } })
    const isStill = () => get().shotId === shotId
    try {
      const path = { shot_id: shotId }
      const body = { revision, recipe: recipe as unknown as Record<string, unknown> }
      const line = await got(api.PUT('/api/v1/shots/{shot_id}', { params: { path }, body }))
      if (!isStill()) return
      const changed = get().recipe !== recipe
      set({ revision: line.revision, saving: { state: changed ? 'waiting' : 'saved' } })
      if (changed) later(() => void get().save(), SAVE_AFTER_MS)
    } catch (error) {
      if (!isStill()) return
      const refusal = error instanceof Refused ? error : new Refused(0, String(error))
      if (refusal.status === 409) {
        const body = refusal.body as Schemas['Stale']
        const theirs = complete(body.recipe)
        set({ saving: { state: 'stale', revision: body.revision, theirs } })
        return
      }
      const { message: says, problems } = refusal
      set({ saving: { state: 'failed', says, problems } })
      if (refusal.status === 0 || refusal.status >= 500) {
        later(() => void get().save(), RETRY_AFTER_MS)
      }
    }
  },
  takeTheirs() {
    const { saving, past = [], recipe } = get()
    if (saving?.state !== 'stale' || !recipe) return
    set({
      past: [...past, { name: 'take the newer version', recipe }],
      future: [],
      recipe: saving.theirs,
      revision: saving.revision,
      saving: { state: 'saved' },
    })
  },
  async saveOver() {
    const { saving } = get()
    if (saving?.state !== 'stale') return
    set({ revision: saving.revision, saving: { state: 'waiting' } })
    await get().save()
  },
}))

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
    const leads = saving?.state === 'saved' ? revision : revision + 1
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

/** Leaving the page with something unsaved still sends it. */
window.addEventListener('pagehide', () => {
  const { shotId, revision, recipe, saving } = useDocument.getState()
  if (shotId) remember(useDocument.getState())
  if (!shotId || saving?.state !== 'waiting') return
  void fetch(`/api/v1/shots/${shotId}`, {
    method: 'PUT',
    keepalive: true,
    headers: { 'Content-Type': 'application/json', 'X-CSRFToken': pageToken() },
    body: JSON.stringify({ revision, recipe }),
  })
})
