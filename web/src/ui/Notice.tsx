import { create } from 'zustand'
import { Button } from './Button'

interface Notice {
  says: string
  action?: { label: string; run(): void }
}

interface NoticeStore {
  notice: Notice | undefined
  tell(notice: Notice): void
  clear(): void
}

const SHOWN_MS = 8000
let timer: number | undefined

export const useNotice = create<NoticeStore>((set) => ({
  notice: undefined,
  tell(notice) {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => set({ notice: undefined }), SHOWN_MS)
    set({ notice })
  },
  clear: () => set({ notice: undefined }),
}))

/** What just happened, with the way back where there is one. */
export function NoticeBar() {
  const { notice, clear } = useNotice()
  return (
    <div aria-live="polite" className="fixed bottom-5 left-1/2 z-50 -translate-x-1/2">
      {notice && (
        <div className="flex items-center gap-3 rounded-full border border-line bg-raised py-1.5 pr-2 pl-4 text-sm shadow-2xl">
          {notice.says}
          {notice.action && (
            <Button
              look="main"
              onClick={() => {
                notice.action?.run()
                clear()
              }}
            >
              {notice.action.label}
            </Button>
          )}
          <Button look="quiet" aria-label="Dismiss" onClick={clear}>
            Close
          </Button>
        </div>
      )}
    </div>
  )
}
