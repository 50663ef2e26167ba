import type { ReactNode } from 'react'
import { Button } from './Button'

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-10 text-center text-quiet">
      Opening {what} …
    </p>
  )
}

export function Failed({ error, onRetry }: { error: Error; onRetry(): void }) {
  return (
    <div role="alert" className="mx-auto max-w-md p-10 text-center">
      <p className="text-coral">{error.message}</p>
      <Button className="mt-4" onClick={onRetry}>
        Try again
      </Button>
    </div>
  )
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="mx-auto max-w-md p-16 text-center">
      <p className="text-lg font-semibold">{title}</p>
      <div className="mt-2 text-quiet">{children}</div>
    </div>
  )
}
