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
  ...{ id: '', name: recipe.name, revision: 3, changed: '', plate: null, problems: [] },
  ...recipe.canvas,
  recipe: { ...recipe },
}
let shots = 0
const named = (name: string): Recipe => ({ ...recipe, name })
const state = () => useDocument.getState()

/** Answers for the server, in the order in which it is asked. */
function serve(...answers: [number, unknown][]) {
  const sent: unknown[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push(await request.json())
    const [status, body] = answers.shift() ?? [200, { revision: 99 }]
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
    const sent = serve([200, { revision: 4 }])
    state().change('first', named('A'))
    state().change('second', named('B'))
    expect(state().saving?.state).toBe('waiting')
    await vi.advanceTimersByTimeAsync(1000)
    expect(sent).toEqual([{ revision: 3, recipe: named('B') }])
    expect(state()).toMatchObject({ revision: 4, saving: { state: 'saved' } })
  })

  it('saves again what changed while it was saving', async () => {
    const sent = serve([200, { revision: 4 }], [200, { revision: 5 }])
    state().change('first', named('A'))
    const saving = state().save()
    state().change('second', named('B'))
    await saving
    await vi.advanceTimersByTimeAsync(2000)
    expect(sent).toEqual([
      { revision: 3, recipe: named('A') },
      { revision: 4, recipe: named('B') },
    ])
    expect(state().saving?.state).toBe('saved')
  })

  it('tries again by itself when the server does not answer', async () => {
    const sent = serve([0, null], [200, { revision: 4 }])
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
      return new Response(JSON.stringify({ revision: 4 }), { status: 200 })
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
    serve([200, { revision: 3, problems }], [200, { revision: 4, problems: [] }])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state()).toMatchObject({ revision: 3, saving: { state: 'draft', problems } })
    state().change('second', named('B'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state()).toMatchObject({ revision: 4, saving: { state: 'saved' } })
  })

  it('goes on when the shot is left', async () => {
    const sent = serve([0, null], [200, { revision: 4 }])
    state().change('first', named('A'))
    state().close()
    await vi.advanceTimersByTimeAsync(10_000)
    expect(sent).toHaveLength(2)
  })

  it('takes what the server has already for saved', async () => {
    serve([409, { says: 'Newer.', revision: 8, recipe: named('A') }])
    state().change('first', named('A'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state()).toMatchObject({ revision: 8, saving: { state: 'saved' } })
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
  const newer = [409, { says: 'Newer.', revision: 8, recipe: named('Theirs') }] as [number, unknown]

  it('overwrites nothing before the person has chosen', async () => {
    const sent = serve(newer)
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(700)
    expect(state().saving).toMatchObject({ state: 'stale', revision: 8 })
    state().change('more', named('Mine too'))
    await vi.advanceTimersByTimeAsync(10_000)
    expect(sent).toHaveLength(1)
  })

  it('goes on with the newer one, and can go back to what was here', async () => {
    serve(newer)
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(700)
    state().takeTheirs()
    expect(state()).toMatchObject({ revision: 8, saving: { state: 'saved' } })
    expect(state().recipe?.name).toBe('Theirs')
    state().undo()
    expect(state().recipe?.name).toBe('Mine')
  })

  it('saves on top of the newer one when told to', async () => {
    const sent = serve(newer, [200, { revision: 9 }])
    state().change('first', named('Mine'))
    await vi.advanceTimersByTimeAsync(700)
    await state().saveOver()
    expect(sent[1]).toEqual({ revision: 8, recipe: named('Mine') })
    expect(state()).toMatchObject({ revision: 9, saving: { state: 'saved' } })
  })
})
