/** Pictures decoded in a worker, so that the page has its time for drawing. */

type Waiting = (bitmap: ImageBitmap | undefined) => void

let worker: Worker | undefined
let asked = 0
const waiting = new Map<number, Waiting>()

/** The picture in an answer. Throws if it is none. */
export async function decoded(blob: Blob): Promise<ImageBitmap> {
  worker ??= begun()
  const id = ++asked
  const bitmap = await new Promise<ImageBitmap | undefined>((resolve) => {
    waiting.set(id, resolve)
    worker?.postMessage([id, blob])
  })
  if (!bitmap) throw new Error('A picture came broken.')
  return bitmap
}

function begun(): Worker {
  const made = new Worker(new URL('./decoding.worker.ts', import.meta.url), { type: 'module' })
  made.onmessage = ({ data: [id, bitmap] }: MessageEvent<[number, ImageBitmap | undefined]>) => {
    waiting.get(id)?.(bitmap)
    waiting.delete(id)
  }
  return made
}
