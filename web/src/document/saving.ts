/** Saving: one request after another for each shot, again until it is done, and never forgotten. */
import { dequal } from 'dequal'
import { api, got, type Problem, pageToken, Refused, type Schemas } from '../api/client'
import { broughtTogether } from '../recipe/asking'
import { complete, type Recipe } from '../recipe/types'
import { forget, keep, takeOver, type Unsaved } from './unsaved'

export type SavingState =
  | { state: 'saved' | 'waiting' | 'saving' }
  /** It is kept as a draft, since it has problems. */
  | { state: 'draft'; problems: Problem[] }
  | { state: 'failed'; says: string; problems: Problem[] }

/** A recipe that two have changed, and where they met. */
export interface Together {
  recipe: Recipe
  both: string[]
  kept: string[]
}

/** A shot as the server has it. */
type Known = Pick<Schemas['ShotWhole'], 'saves' | 'revision' | 'recipe'> & {
  problems?: Problem[] | undefined
}

const SAVE_AFTER_MS = 600
const RETRY_AFTER_MS = 4000
const LONGEST_RETRY_MS = 30_000
/** Browsers send no more than 64 KiB of what a page leaves behind. */
const MOST_LEFT_BEHIND = 60_000
/** As often as others save in between, it is brought together with theirs at once; then after a pause. */
const MOST_MEETINGS = 5
/** Recipes that were sent without an answer: the server may have taken any of them. */
const MOST_TRIED = 20

/** What is saved of one shot, and what is still to be. It goes on when nobody looks at the shot. */
export class Saver {
  state: SavingState = { state: 'saved' }
  /** Whether unsaved work is kept on the device as well. */
  isKept = true
  private isSending = false
  private tried: Recipe[] = []
  private isHeldBack = false
  private tries = 0
  private timer: number | undefined
  private watch: ((saver: Saver) => void) | undefined

  constructor(
    readonly shot: string,
    public revision: number,
    /** The number of the save that it is on top of. */
    public seen: number,
    /** The newest recipe there is, and the one that the server had at that. */
    public recipe: Recipe,
    private sent: Recipe,
    /** What is wrong with that. */
    private problems: Problem[] = [],
  ) {
    this.state = told(problems)
  }

  /** Whoever has the shot open, or nobody. */
  watchedBy(watch: ((saver: Saver) => void) | undefined) {
    this.watch = watch
  }

  /** Whether the shot is open here, or something of it is still to be saved. */
  get isBusy(): boolean {
    return this.watch !== undefined || !this.isDone
  }

  get isDone(): boolean {
    return this.recipe === this.sent && !this.isSending
  }

  /** Another recipe to be saved, after a pause. */
  put(recipe: Recipe) {
    this.recipe = recipe
    if (this.isDone) return this.finish(recipe, this.problems)
    this.keep()
    this.isHeldBack = false
    this.tell(this.isSending ? this.state : { state: 'waiting' })
    this.later(SAVE_AFTER_MS)
  }

  /** Take up what is unsaved, as it was found. */
  resume() {
    if (this.isDone) return
    this.tell({ state: 'waiting' })
    void this.send()
  }

  /** Send what is unsaved, now. */
  async send(): Promise<void> {
    window.clearTimeout(this.timer)
    if (this.isSending || this.isDone) return
    this.isSending = true
    this.tell({ state: 'saving' })
    try {
      for (let meetings = 0; !(await this.offer()); meetings += 1) {
        if (meetings >= MOST_MEETINGS) break
      }
      this.tries = 0
      this.isSending = false
      if (this.recipe === this.sent) return this.finish(this.recipe, this.problems)
      this.keep()
      this.tell({ state: 'waiting' })
      this.later(SAVE_AFTER_MS)
    } catch (error) {
      this.isSending = false
      this.fail(error instanceof Refused ? error : new Refused(0, String(error)))
    }
  }

  /** The shot was saved elsewhere: what is here goes on from there. */
  async hear(shot: Known) {
    if (this.isSending || shot.saves <= this.seen) return
    this.isSending = true
    try {
      await this.meet(shot)
    } catch {
      // Whoever saves next is told again that there is something newer.
    } finally {
      this.isSending = false
    }
    if (this.recipe === this.sent) this.finish(this.recipe, this.problems)
    else this.put(this.recipe)
  }

  /** Ask the server to take the newest recipe. Without success it is brought together with what is newer there. */
  private async offer(): Promise<boolean> {
    const recipe = this.recipe
    if (recipe === this.sent) return true
    this.tried = [...this.tried, recipe].slice(-MOST_TRIED)
    try {
      const path = { shot_id: this.shot }
      const body = { seen: this.seen, recipe: { ...recipe } }
      const line = await got(api.PUT('/api/v1/shots/{shot_id}', { params: { path }, body }))
      this.take(line, recipe)
      return true
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 409) throw error
      await this.meet(error.body as Schemas['Stale'])
      return false
    }
  }

  /** What is here, and what the server has, become one; what it has may have come from here. */
  private async meet(known: Known) {
    const theirs = complete(known.recipe)
    const own = this.tried.find((recipe) => dequal(complete({ ...recipe }), theirs))
    if (own) return this.take(known, own)
    let made: Together = { recipe: theirs, both: [], kept: [] }
    while (this.recipe !== this.sent) {
      const mine = this.recipe
      const answer = await broughtTogether(this.sent, mine, theirs)
      if (this.recipe !== mine) continue
      made = { ...answer, recipe: complete(answer.recipe) }
      break
    }
    this.recipe = dequal(made.recipe, theirs) ? theirs : made.recipe
    this.take(known, theirs)
    this.keep()
    if (this.watch) tellBroughtTogether(made)
  }

  /** This is what the server has now. */
  private take(known: Omit<Known, 'recipe'>, recipe: Recipe) {
    this.seen = known.saves
    this.revision = known.revision
    this.problems = known.problems ?? []
    this.sent = recipe
    this.tried = []
    this.tell(this.state)
  }

  /** The page goes: what a browser still sends is sent; what is kept on the device waits there. */
  leave() {
    if (this.isDone || this.isSending) return
    const body = JSON.stringify({ seen: this.seen, recipe: this.recipe })
    if (body.length > MOST_LEFT_BEHIND) return
    void fetch(`/api/v1/shots/${this.shot}`, {
      method: 'PUT',
      keepalive: true,
      headers: { 'Content-Type': 'application/json', 'X-CSRFToken': pageToken() },
      body,
    }).catch(() => undefined)
  }

  private finish(recipe: Recipe, problems: Problem[] = []) {
    window.clearTimeout(this.timer)
    this.sent = recipe
    this.problems = problems
    void forget(this.shot)
    this.tell(told(problems))
  }

  private fail(refusal: Refused) {
    this.tell({ state: 'failed', says: refusal.message, problems: refusal.problems })
    this.isHeldBack = [404, 422].includes(refusal.status)
    if (this.isHeldBack) return
    this.later(Math.min(LONGEST_RETRY_MS, RETRY_AFTER_MS * 2 ** this.tries))
    this.tries += 1
  }

  /** Tries again before it is due, as when the device is online again. */
  again() {
    if (!this.isDone && !this.isHeldBack) void this.send()
  }

  private later(wait: number) {
    window.clearTimeout(this.timer)
    this.timer = window.setTimeout(() => void this.send(), wait)
  }

  private keep() {
    const { shot, revision, seen, recipe, sent: base } = this
    void keep({ shot, person, revision, seen, recipe, base }).then((isKept) => {
      this.isKept = isKept
    })
  }

  private tell(state: SavingState) {
    this.state = state
    this.watch?.(this)
  }
}

/** What is saved, and is a draft if it has problems. */
function told(problems: Problem[]): SavingState {
  return problems.length > 0 ? { state: 'draft', problems } : { state: 'saved' }
}

const savers = new Map<string, Saver>()
let person = ''

/**
 * The saver of a shot as the server told it, with what is unsaved of it, or was saved since it was
 * asked for.
 */
export function saverOf(shot: Schemas['ShotWhole']): Saver {
  const known = savers.get(shot.id)
  if (known && (!known.isDone || known.seen > shot.saves)) return known
  const recipe = complete(shot.recipe)
  const made = new Saver(shot.id, shot.revision, shot.saves, recipe, recipe, shot.problems ?? [])
  savers.set(shot.id, made)
  return made
}

/**
 * Work that a tab which is gone left unsaved, of a shot as the server told it: its saver takes it up.
 * What the server has already is left alone.
 */
export async function resume(shot: Schemas['ShotWhole']): Promise<true> {
  if (savers.get(shot.id)?.isBusy) return true
  const [left] = await takeOver(person, (other) => other === shot.id)
  if (!left) return true
  const recipe = complete(shot.recipe)
  if (dequal(complete({ ...left.recipe }), recipe)) {
    void forget(shot.id)
  } else {
    savers.set(shot.id, saverOfLeft(left, recipe))
    tellBroughtBack()
  }
  return true
}

/** Of what was left: on top of what it was changed from, or of what the server has if that is not known. */
function saverOfLeft({ shot, revision, seen, recipe, base }: Unsaved, known: Recipe): Saver {
  return new Saver(shot, revision, seen, recipe, base ?? known)
}

let tellBroughtBack = () => {}

/** Who is told when work of a tab that is gone has been brought back. */
export function onBroughtBack(tell: () => void) {
  tellBroughtBack = tell
}

let tellBroughtTogether = (_: Together) => {}

/** Who is told when what is open has been brought together with what was saved elsewhere. */
export function onBroughtTogether(tell: (made: Together) => void) {
  tellBroughtTogether = tell
}

/** From now on work is this person's, and what was left unsaved is sent at the next chance. */
export function workAs(name: string) {
  person = name
  void catchUp()
}

/** Sends all that is unsaved: of shots that were left, and of tabs that are gone. */
export async function catchUp() {
  if (!person) return
  for (const saver of savers.values()) saver.again()
  for (const work of await takeOver(person, (shot) => !savers.get(shot)?.isBusy)) {
    // What the server has is not known here, so nothing can be the same as it.
    const saver = saverOfLeft(work, { ...work.recipe })
    savers.set(work.shot, saver)
    tellBroughtBack()
    saver.resume()
  }
}

const CATCH_UP_EVERY_MS = 20_000
window.addEventListener('online', () => void catchUp())
window.setInterval(() => void catchUp(), CATCH_UP_EVERY_MS)
window.addEventListener('pagehide', () => {
  for (const saver of savers.values()) saver.leave()
})
/** Leaving loses work only where it could be kept neither here nor there. */
window.addEventListener('beforeunload', (event) => {
  if ([...savers.values()].some((saver) => !saver.isDone && !saver.isKept)) event.preventDefault()
})
