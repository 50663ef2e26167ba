import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  /** Where it opens, seen from what opens it; below unless there is no room. */
  side?: 'top' | 'bottom'
  /** Its width, as a class. */
  width: string
  children: ReactNode
}

/** What a popover shows: a few controls in rows. */
export function Panel({ side, width, children }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        side={side}
        sideOffset={6}
        collisionPadding={12}
        className={`z-40 grid gap-3 rounded-xl border border-line bg-raised p-3.5 shadow-2xl ${width}`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  )
}
