import { Dialog as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  title: string
  says?: string
  open: boolean
  onClose(): void
  children: ReactNode
}

export function Dialog({ title, says, open, onClose, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Radix.Content
          aria-describedby={says ? undefined : ''}
          className="fixed top-1/2 left-1/2 z-40 max-h-[calc(100dvh-16px)] w-[420px] max-w-[96vw] overflow-y-auto overscroll-contain -translate-x-1/2 -translate-y-1/2 rounded-2xl bg-panel p-5 shadow-2xl"
        >
          <Radix.Title className="text-lg font-semibold">{title}</Radix.Title>
          {says && (
            <Radix.Description className="mt-1 text-sm text-quiet">{says}</Radix.Description>
          )}
          <div className="mt-4">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
