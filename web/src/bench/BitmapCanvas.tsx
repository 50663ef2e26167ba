import { type CSSProperties, useLayoutEffect, useRef } from 'react'

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
  useLayoutEffect(() => {
    const canvas = ref.current
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
    context.imageSmoothingQuality = 'high'
    context.drawImage(bitmap, 0, 0, wide, high)
  }, [bitmap, width])
  return <canvas ref={ref} role="img" aria-label={label} className={className} style={style} />
}
