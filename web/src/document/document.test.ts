import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '../api/client'
import { strike } from '../recipe/known'
import type { Recipe } from '../recipe/types'
import { useDocument } from './document'

/** As much of a page as saving needs. */
vi.hoisted(() => {
  Object.assign(globalThis, {
    window: globalThis,
    document: { cookie: 'csrftoken=t' },
    location: { origin: 'http://localhost' },
    addEventListener: () => undefined,
  })
})

const recipe = strike('Test')
const shot: Schemas['ShotWhole'] = {
  ...{ id: '', name: recipe.name, revision: 3, saves: 5, changed: '', plate: null, problems: [] },
  ...recipe.canvas,
  recipe: { ...recipe },
}
let shots = 0
const named = (name: string): Recipe => ({ ...recipe, name })
const state = () => useDocument.getState()

/** What the server says of a save, by its number. */
const saved = (saves: number) => ({ saves, revision: saves - 2, problems: [] })

/** Answers for the server, in the order in which it is asked. */
function serve(...answers: [number, unknown][]) {
  const sent: unknown[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push(await request.json())
    const [status, body] = answers.shift() ?? [200, saved(99)]
    if (status === 0) throw new TypeError('no network')
    return new Response(JSON.stringify(body), { status })
  })
  return sent
}

beforeEach(() => {
  vi.useFakeTimers()
  shots += 1
  state().open({ ...shot, id: `shot ${shots}` })
})
afterEach(async () => {
  state().close()
  await vi.runAllTimersAsync()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('undo', () => {
  it('goes back and forth step by step', () => {
    serve()
    state().change('first', named('A'))
    state().change('second', named('B'))
    state().undo()
    expect(state().recipe?.name).toBe('A')
    state().undo()
    expect(state().recipe).toEqual(recipe)
    state().undo()
    expect(state().recipe).toEqual(recipe)
    state().redo()
    state().redo()
    expect(state().recipe?.name).toBe('B')
    expect(state().past?.map((step) => step.name)).toEqual(['first', 'second'])
  })

  it('takes a gesture as one step, until it is over', () => {
    serve()
    for (const name of ['A', 'B', 'C']) state().change('drag', named(name), 'width')
    expect(state().past).toHaveLength(1)
    state().settle()
    state().change('drag', named('D'), 'width')
    expect(state().past).toHaveLength(2)
    state().undo()
    expect(state().recipe?.name).toBe('C')
  })

  it('forgets what was undone once something else is done', () => {
    serve()
    state().change('first', named('A'))
    state().undo()
    state().change('other', named('B'))
    expect(state().future).toEqual([])
  })
})

describe('saving', () => {
  it('waits for a pause, sends the revision it saw, and keeps the new one', async () => {
    const sent = serve([200, saved(6)])
    state().change('first', named('A'))
    state().change('second', named('B'))
    expect(state().saving?.state).toBe('waiting')
    await vi.advanceTimersByTimeAsync(1000)
    expect(sent).toEqual([{ seen: 5, recipe: named('B') }])
    expect(state()).toMatchObject({ revision: 4, saving: { state: 'saved' } })
  })

  it('saves again what changed while it was saving', async () => {
    const sent = serve([200, saved(6)], [200, saved(7)])
    state().change('first', named('A'))
    const saving = state().save()
    state().change('second', named('B'))
    await saving
    await vi.advanceTimersByTimeAsync(2000)
    expect(sent).toEqual([
      { seen: 5, recipe: named('A') },
      { seen: 6, recipe: named('B') },
    ])
    expect(state().saving?.state).toBe('saved')
  })

  it('tries again by itself when the server does not answer', async () => {
    const sent = serve([0, null], [200, saved(6)])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state().saving?.state).toBe('failed')
    await vi.advanceTimersByTimeAsync(5000)
    expect(sent).toHaveLength(2)
    expect(state().saving?.state).toBe('saved')
  })

  it('is done once everything is as it was saved', async () => {
    const sent = serve()
    state().change('first', named('A'))
    state().undo()
    expect(state().saving?.state).toBe('saved')
    await vi.advanceTimersByTimeAsync(5000)
    expect(sent).toEqual([])
  })

  it('sends one after another, however slow they are', async () => {
    let under = 0
    let most = 0
    vi.stubGlobal('fetch', async () => {
      most = Math.max(most, ++under)
      await new Promise((done) => setTimeout(done, 3000))
      under -= 1
      return new Response(JSON.stringify(saved(6)), { status: 200 })
    })
    for (const name of ['A', 'B', 'C', 'D']) {
      state().change('type', named(name))
      await vi.advanceTimersByTimeAsync(900)
    }
    await vi.advanceTimersByTimeAsync(20_000)
    expect(most).toBe(1)
    expect(state().saving?.state).toBe('saved')
  })

  it('keeps what has problems as a draft, and tells them', async () => {
    const problems = [{ path: 'seed', says: 'It is wrong.' }]
    serve([200, { ...saved(6), revision: 3, problems }], [200, { ...saved(7), revision: 4 }])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state()).toMatchObject({ revision: 3, saving: { state: 'draft', problems } })
    state().change('second', named('B'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state()).toMatchObject({ revision: 4, saving: { state: 'saved' } })
  })

  it('goes on when the shot is left', async () => {
    const sent = serve([0, null], [200, saved(6)])
    state().change('first', named('A'))
    state().close()
    await vi.advanceTimersByTimeAsync(10_000)
    expect(sent).toHaveLength(2)
  })

  it('takes what it has sent before for saved, though it was never told', async () => {
    const sent = serve([0, null], [409, { ...saved(6), recipe: named('A') }], [200, saved(7)])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    state().change('second', named('B'))
    await vi.advanceTimersByTimeAsync(10_000)
    expect(sent.at(-1)).toEqual({ seen: 6, recipe: named('B') })
    expect(sent).toHaveLength(3)
    expect(state()).toMatchObject({ revision: 5, saving: { state: 'saved' } })
  })

  it('shows the problems of a recipe that is refused, and keeps it', async () => {
    const problems = [{ path: 'seed', says: 'It is wrong.' }]
    serve([422, { says: 'This recipe cannot be used yet.', problems }])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state().saving).toMatchObject({ state: 'failed', problems })
    expect(state().recipe?.name).toBe('A')
  })
})

describe('somebody saved meanwhile', () => {
  const theirs = { ...recipe, seed: 77 }
  const both = { ...named('Mine'), seed: 77 }
  const newer: [number, unknown] = [409, { ...saved(9), recipe: theirs }]
  const together: [number, unknown] = [200, { recipe: both, both: [], kept: [] }]

  it('brings both together and saves that on top of theirs', async () => {
    const sent = serve(newer, together, [200, saved(10)])
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(700)
    expect(sent).toEqual([
      { seen: 5, recipe: named('Mine') },
      { base: recipe, mine: named('Mine'), theirs },
      { seen: 9, recipe: both },
    ])
    expect(state()).toMatchObject({ recipe: both, saving: { state: 'saved' } })
    state().undo()
    expect(state().recipe).toEqual(named('Mine'))
  })

  it('goes on from theirs where nothing is unsaved here', async () => {
    const sent = serve([200, { ...shot, ...saved(9), recipe: theirs }])
    const id = state().shotId ?? ''
    vi.stubGlobal('fetch', async () => {
      return new Response(JSON.stringify({ ...shot, id, ...saved(9), recipe: theirs }))
    })
    await state().hear({ what: 'shot', id, at: 9 })
    expect(sent).toEqual([])
    expect(state()).toMatchObject({ recipe: theirs, saving: { state: 'saved' } })
    state().undo()
    expect(state().recipe).toEqual(recipe)
  })

  it('asks nothing where what is told is known already, or of another shot', async () => {
    const asked = vi.fn()
    vi.stubGlobal('fetch', asked)
    await state().hear({ what: 'shot', id: state().shotId ?? '', at: 5 })
    await state().hear({ what: 'shot', id: 'another', at: 50 })
    expect(asked).not.toHaveBeenCalled()
  })

  it('brings together again what changed while that was done', async () => {
    const later = { ...named('Later'), seed: 77 }
    const sent: unknown[] = []
    const answers = [
      newer,
      together,
      [200, { recipe: later, both: [], kept: [] }],
      [200, saved(10)],
    ]
    vi.stubGlobal('fetch', async (request: Request) => {
      sent.push(await request.json())
      if (sent.length === 2) state().change('more', named('Later'))
      const [status, body] = answers[sent.length - 1] as [number, unknown]
      return new Response(JSON.stringify(body), { status })
    })
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(3000)
    expect(sent[2]).toEqual({ base: recipe, mine: named('Later'), theirs })
    expect(sent[3]).toEqual({ seen: 9, recipe: later })
    expect(state()).toMatchObject({ recipe: later, saving: { state: 'saved' } })
  })

  it('tries again later where others save again and again', async () => {
    let saves = 5
    let asked = 0
    let isBusy = true
    vi.stubGlobal('fetch', async (request: Request) => {
      asked += 1
      const body = request.url.endsWith('together')
        ? { recipe: { ...both, seed: saves }, both: [], kept: [] }
        : { ...saved(++saves), recipe: { ...recipe, seed: saves } }
      return new Response(JSON.stringify(body), {
        status: isBusy && request.method === 'PUT' ? 409 : 200,
      })
    })
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(700)
    expect(asked).toBeLessThan(20)
    expect(state().saving?.state).toBe('waiting')
    expect(state().recipe?.name).toBe('Mine')
    isBusy = false
    await vi.advanceTimersByTimeAsync(1000)
    expect(state().saving?.state).toBe('saved')
  })
})
