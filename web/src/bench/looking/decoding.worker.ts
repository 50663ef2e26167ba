/** Decodes pictures beside the page, which only draws them. */
self.onmessage = async ({ data: [id, blob] }: MessageEvent<[number, Blob]>) => {
  try {
    const bitmap = await createImageBitmap(blob)
    self.postMessage([id, bitmap], { transfer: [bitmap] })
  } catch {
    self.postMessage([id, undefined])
  }
}
