import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  /** What it is, for those who do not see it. */
  label: string
  /** Where it opens, seen from what opens it; below unless there is no room. */
  side?: 'top' | 'bottom'
  /** Its width, as a class. */
  width: string
  children: ReactNode
}

/** What is typed into comes first, or the first thing there is. */
function focusFirst(event: Event) {
  const field = (event.currentTarget as HTMLElement).querySelector<HTMLElement>('[data-first]')
  if (!field) return
  event.preventDefault()
  field.focus()
}

/** What a popover shows: a few controls in rows. */
export function Panel({ label, side, width, children }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        side={side}
        sideOffset={6}
        collisionPadding={12}
        aria-label={label}
        onOpenAutoFocus={focusFirst}
        className={`z-40 grid max-h-(--radix-popover-content-available-height) max-w-[calc(100vw-24px)] gap-3 overflow-y-auto overscroll-contain rounded-xl border border-line bg-raised p-3.5 shadow-2xl ${width}`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  )
}
