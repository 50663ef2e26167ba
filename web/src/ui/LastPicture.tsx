import { useState } from 'react'

/** The last small picture that there was of something, which stands in for the next; nothing where there was none. */
export function LastPicture({ src, className }: { src: string; className: string }) {
  const [hasNone, setHasNone] = useState(false)
  if (hasNone) return null
  return <img src={src} alt="" onError={() => setHasNone(true)} className={className} />
}
