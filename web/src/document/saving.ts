/** Saving: one request after another for each shot, again until it is done, and never forgotten. */
import { dequal } from 'dequal'
import { api, got, type Problem, pageToken, Refused, type Schemas } from '../api/client'
import { complete, type Recipe } from '../recipe/types'
import { forget, keep, takeOver } from './unsaved'

export type SavingState =
  | { state: 'saved' | 'waiting' | 'saving' }
  /** It is kept as a draft, since it has problems. */
  | { state: 'draft'; problems: Problem[] }
  | { state: 'failed'; says: string; problems: Problem[] }
  | { state: 'stale'; revision: number; theirs: Recipe }

const SAVE_AFTER_MS = 600
const RETRY_AFTER_MS = 4000
const LONGEST_RETRY_MS = 30_000
/** Browsers send no more than 64 KiB of what a page leaves behind. */
const MOST_LEFT_BEHIND = 60_000

/** What is saved of one shot, and what is still to be. It goes on when nobody looks at the shot. */
export class Saver {
  state: SavingState = { state: 'saved' }
  /** Whether unsaved work is kept on the device as well. */
  isKept = true
  private isSending = false
  private isHeldBack = false
  private tries = 0
  private timer: number | undefined
  private watch: ((saver: Saver) => void) | undefined

  constructor(
    readonly shot: string,
    public revision: number,
    /** The newest recipe there is, and the one that the server has. */
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
    if (this.state.state === 'stale') return
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

  /** Keep what the server has, as somebody else saved it. */
  takeTheirs(): Recipe | undefined {
    if (this.state.state !== 'stale') return undefined
    const { theirs, revision } = this.state
    this.revision = revision
    this.recipe = theirs
    this.finish(theirs)
    return theirs
  }

  /** Save on top of what somebody else saved. */
  async saveOver() {
    if (this.state.state !== 'stale') return
    this.revision = this.state.revision
    this.keep()
    this.tell({ state: 'waiting' })
    await this.send()
  }

  /** Send what is unsaved, now. */
  async send(): Promise<void> {
    window.clearTimeout(this.timer)
    if (this.isSending || this.isDone || this.state.state === 'stale') return
    this.isSending = true
    this.tell({ state: 'saving' })
    const recipe = this.recipe
    try {
      const path = { shot_id: this.shot }
      const body = { revision: this.revision, recipe: { ...recipe } }
      const line = await got(api.PUT('/api/v1/shots/{shot_id}', { params: { path }, body }))
      this.revision = line.revision
      this.tries = 0
      this.isSending = false
      if (this.recipe === recipe) {
        this.finish(recipe, line.problems ?? [])
      } else {
        this.sent = recipe
        this.problems = line.problems ?? []
        this.keep()
        this.tell({ state: 'waiting' })
        this.later(SAVE_AFTER_MS)
      }
    } catch (error) {
      this.isSending = false
      this.fail(error instanceof Refused ? error : new Refused(0, String(error)))
    }
  }

  /** The page goes: what a browser still sends is sent; what is kept on the device waits there. */
  leave() {
    if (this.isDone || this.isSending || this.state.state === 'stale') return
    const body = JSON.stringify({ revision: this.revision, recipe: this.recipe })
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
    if (refusal.status === 409) {
      const body = refusal.body as Schemas['Stale']
      const theirs = complete(body.recipe)
      if (dequal(theirs, complete({ ...this.recipe }))) {
        this.revision = body.revision
        this.finish(this.recipe)
      } else {
        this.tell({ state: 'stale', revision: body.revision, theirs })
      }
      return
    }
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
    const { shot, revision, recipe } = this
    void keep({ shot, person, revision, recipe }).then((isKept) => {
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
export function saverOf(
  shot: string,
  revision: number,
  recipe: Recipe,
  problems: Problem[],
): Saver {
  const known = savers.get(shot)
  if (known && (!known.isDone || known.revision > revision)) return known
  const made = new Saver(shot, revision, recipe, recipe, problems)
  savers.set(shot, made)
  return made
}

/**
 * Work that a tab which is gone left unsaved, of a shot as the server told it: its saver takes it up.
 * What the server has already is left alone.
 */
export async function resume(shot: string, revision: number, recipe: Recipe): Promise<true> {
  if (savers.get(shot)?.isBusy) return true
  const [left] = await takeOver(person, (other) => other === shot)
  if (!left) return true
  if (dequal(complete({ ...left.recipe }), recipe)) {
    void forget(shot)
  } else {
    savers.set(shot, new Saver(shot, Math.min(left.revision, revision), left.recipe, recipe))
    tellBroughtBack()
  }
  return true
}

let tellBroughtBack = () => {}

/** Who is told when work of a tab that is gone has been brought back. */
export function onBroughtBack(tell: () => void) {
  tellBroughtBack = tell
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
    const saver = new Saver(work.shot, work.revision, work.recipe, { ...work.recipe })
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
