/**
 * Work that is not saved yet, kept on this device from its first change: it outlives a crash, a
 * reload and a closed tab, and any tab of this device takes it up again.
 */
import { createStore, del, entries, set } from 'idb-keyval'
import type { Recipe } from '../recipe/types'

export interface Unsaved {
  shot: string
  person: string
  /** The tab that works on it. */
  tab: string
  /** The revision, the save and the recipe that it is on top of. */
  revision: number
  seen: number
  base?: Recipe
  recipe: Recipe
  /** When it was changed, in ms since 1970. */
  at: number
}

const TAB = crypto.randomUUID()
const LIVES = 'tab at work '
/** Where a device cannot tell whether a tab still lives, it does if it kept something lately. */
const LATELY_MS = 30_000

const store = () => createStore('handful', 'unsaved')
const keyOf = (shot: string, tab = TAB) => `${shot} ${tab}`

/** Absent in pages that are not served securely, and outside of browsers. */
const locks: LockManager | undefined = globalThis.navigator?.locks

/** While this tab lives it holds a lock in its name, which goes with it however it ends. */
void locks?.request(LIVES + TAB, () => new Promise(() => undefined))

let isWriting = false
const waiting = new Map<string, Unsaved | undefined>()
let last: Promise<boolean> = Promise.resolve(true)

/** Keep what is unsaved of a shot. The promise says whether all that was asked for is kept. */
export function keep(work: Omit<Unsaved, 'tab' | 'at'>): Promise<boolean> {
  return ask(keyOf(work.shot), { ...work, tab: TAB, at: Date.now() })
}

/** It is saved: nothing needs to be kept of it. */
export function forget(shot: string): Promise<boolean> {
  return ask(keyOf(shot), undefined)
}

/** One write at a time, and of several for one shot only the newest. */
function ask(key: string, work: Unsaved | undefined): Promise<boolean> {
  waiting.set(key, work)
  if (!isWriting) last = write()
  return last
}

async function write(): Promise<boolean> {
  isWriting = true
  try {
    for (const [key, work] of waiting) {
      waiting.delete(key)
      await (work ? set(key, work, store()) : del(key, store()))
    }
    return true
  } catch {
    return false
  } finally {
    isWriting = false
  }
}

/** Takes over what tabs that are gone left unsaved of a person's shots, if they are asked for. */
export async function takeOver(
  person: string,
  isAskedFor: (shot: string) => boolean,
): Promise<Unsaved[]> {
  const claim = async () => {
    const living = await livingTabs()
    const all = await entries<string, Unsaved>(store())
    const left = all.filter(
      ([, work]) =>
        work.person === person &&
        isAskedFor(work.shot) &&
        work.tab !== TAB &&
        !(living ? living.has(work.tab) : Date.now() - work.at < LATELY_MS),
    )
    const newest = new Map<string, Unsaved>()
    for (const [, work] of left.sort(([, a], [, b]) => a.at - b.at)) newest.set(work.shot, work)
    for (const work of newest.values()) {
      await set(keyOf(work.shot), { ...work, tab: TAB }, store())
    }
    for (const [key] of left) await del(key, store())
    return [...newest.values()]
  }
  try {
    return locks ? await locks.request('unsaved work', claim) : await claim()
  } catch {
    return []
  }
}

async function livingTabs(): Promise<Set<string> | undefined> {
  const held = (await locks?.query())?.held
  return held && new Set(held.map(({ name }) => name?.slice(LIVES.length) ?? ''))
}
