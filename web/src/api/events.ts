/** What happens to a person's things, told by the server at once. All pages of a browser share one stream. */

/** What has changed, which, and how often by now; `all` where something may have been missed. */
export interface Told {
  what: 'shot' | 'render' | 'all'
  id: string
  at: number
}

const AGAIN_AFTER_MS = 5000
const STREAM = 'the stream of events'

/** Hear what is told until the answer is called. */
export function listen(hear: (told: Told) => void): () => void {
  const ending = new AbortController()
  const others = new BroadcastChannel(STREAM)
  others.onmessage = ({ data }: MessageEvent<Told>) => hear(data)
  ending.signal.addEventListener('abort', () => others.close())
  const lead = () =>
    streamed(ending.signal, (told) => {
      others.postMessage(told)
      hear(told)
    })
  // One page has the stream and tells the others; when it goes, the next one has it.
  const locks: LockManager | undefined = navigator.locks
  const led = locks ? locks.request(STREAM, { signal: ending.signal }, lead) : lead()
  led.catch(() => undefined)
  return () => ending.abort()
}

/** The stream itself, begun anew as often as it breaks, until it is told to end. */
function streamed(ending: AbortSignal, hear: (told: Told) => void): Promise<void> {
  return new Promise((done) => {
    let source: EventSource
    let timer: number | undefined
    const begin = () => {
      source = new EventSource('/api/v1/events')
      source.onmessage = ({ data }) => hear(JSON.parse(data))
      source.onerror = () => {
        if (source.readyState === EventSource.CLOSED)
          timer = window.setTimeout(again, AGAIN_AFTER_MS)
      }
    }
    const again = () => {
      hear({ what: 'all', id: '', at: 0 })
      begin()
    }
    ending.addEventListener('abort', () => {
      window.clearTimeout(timer)
      source.close()
      done()
    })
    begin()
  })
}
