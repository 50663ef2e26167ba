import { type CSSProperties, useLayoutEffect, useRef } from 'react'
import { usePictures } from './pictures'

/** How a bitmap looks in the strip. */
export const TILE = 'w-[124px] aspect-video rounded-md bg-black object-contain'

interface Props {
  bitmap: ImageBitmap | undefined
  label: string
  className?: string
  /** Px to draw it in; the bitmap's own if left out. */
  width?: number
  style?: CSSProperties
}

/** Shows a bitmap; without a new one it keeps the last. */
export function BitmapCanvas({ bitmap, label, className, width, style }: Props) {
  const ref = useRef<HTMLCanvasElement>(null)
  useLayoutEffect(() => draw(ref.current, bitmap, width), [bitmap, width])
  return <canvas ref={ref} role="img" aria-label={label} className={className} style={style} />
}

/** The picture of the result, drawn as it comes without anything else being drawn anew. */
export function ResultCanvas({ label, className, width }: Omit<Props, 'bitmap' | 'style'>) {
  const ref = useRef<HTMLCanvasElement>(null)
  useLayoutEffect(() => {
    const show = ({ result }: { result?: ImageBitmap }) => draw(ref.current, result, width)
    show(usePictures.getState())
    return usePictures.subscribe((now, before) => {
      if (now.result !== before.result) show(now)
    })
  }, [width])
  return <canvas ref={ref} role="img" aria-label={label} className={className} />
}

function draw(
  canvas: HTMLCanvasElement | null,
  bitmap: ImageBitmap | undefined,
  width: number | undefined,
) {
  if (!canvas || !bitmap || bitmap.width === 0) return
  const shrunk = Math.min(1, (width ?? bitmap.width) / bitmap.width)
  const wide = Math.round(bitmap.width * shrunk)
  const high = Math.round(bitmap.height * shrunk)
  if (canvas.width !== wide || canvas.height !== high) {
    canvas.width = wide
    canvas.height = high
  }
  const context = canvas.getContext('2d', { alpha: false })
  if (!context) return
  context.imageSmoothingQuality = shrunk < 1 ? 'medium' : 'low'
  context.drawImage(bitmap, 0, 0, wide, high)
}
