/** The one way to the server: typed calls, the page's token, and refusals as errors with a sentence. */
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']

export class Refused extends Error {
  constructor(
    readonly status: number,
    says: string,
    readonly problems: Problem[] = [],
    readonly body: unknown = undefined,
  ) {
    super(says)
  }
}

export function pageToken(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? ''
}

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: 'same-origin',
  fetch: sent,
})

api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', pageToken())
    return request
  },
  async onResponse({ response }) {
    if (response.ok) return
    throw await refusalOf(response)
  },
  onError: unanswered,
})

function unanswered(): Refused {
  return new Refused(0, 'The server does not answer. Your work is kept here until it does.')
}

/**
 * A request, sent once more with a newer token where the page's own was out of date, as after signing
 * in again in another tab.
 */
async function sent(request: Request): Promise<Response> {
  const again = request.method === 'GET' ? undefined : request.clone()
  const response = await window.fetch(request)
  if (!again || response.status !== 403) return response
  const body = await response
    .clone()
    .json()
    .catch(() => undefined)
  if (!body?.stale_page) return response
  await window.fetch('/api/v1/people/me')
  again.headers.set('X-CSRFToken', pageToken())
  return window.fetch(again)
}

/** An answer that is not JSON. A refusal, or none, is an error with a sentence; `signal` ends it. */
export async function answerTo(address: string, request: RequestInit): Promise<Response> {
  const headers = { ...request.headers, 'X-CSRFToken': pageToken() }
  const whole = new Request(new URL(address, window.location.origin), { ...request, headers })
  const response = await sent(whole).catch((error) => {
    throw request.signal?.aborted ? error : unanswered()
  })
  if (!response.ok) throw await refusalOf(response)
  return response
}

export async function refusalOf(response: Response): Promise<Refused> {
  const body = await response.json().catch(() => undefined)
  const says = body?.says ?? sentenceFor(response.status)
  return new Refused(response.status, says, body?.problems ?? [], body)
}

function sentenceFor(status: number): string {
  if (status === 401) return 'You are signed out. Sign in again to go on.'
  if (status === 422) return 'The server did not understand this request.'
  return `The server could not do this (${status}). Try again.`
}

/** The data of an answer; a refusal has been thrown before this. */
export async function got<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T
}
