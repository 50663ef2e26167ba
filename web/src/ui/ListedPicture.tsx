import { type ComponentProps, useEffect, useRef, useState } from 'react'
import { pictureTurns } from './turns'

interface Props extends Omit<ComponentProps<'img'>, 'src' | 'alt' | 'loading'> {
  src: string | undefined
}

/**
 * A picture in a list of many. It is fetched once it is nearly in sight and it is its turn; until then
 * the one before it stays.
 */
export function ListedPicture({ src, onLoad, onError, ...others }: Props) {
  const image = useRef<HTMLImageElement>(null)
  const [shown, setShown] = useState<string>()
  const end = useRef(() => {})
  useEffect(() => {
    const element = image.current
    if (!src || !element) return
    const watch = new IntersectionObserver(
      ([entry]) => {
        if (!entry?.isIntersecting) return
        watch.disconnect()
        end.current = pictureTurns.ask(() => setShown(src))
      },
      { rootMargin: '200px' },
    )
    watch.observe(element)
    return () => {
      watch.disconnect()
      end.current()
    }
  }, [src])
  return (
    <img
      {...others}
      ref={image}
      src={src && shown}
      alt=""
      onLoad={(event) => {
        end.current()
        onLoad?.(event)
      }}
      onError={(event) => {
        end.current()
        onError?.(event)
      }}
    />
  )
}
