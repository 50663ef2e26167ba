import { Popover } from 'radix-ui'
import { type KeyboardEvent, type ReactNode, useRef, useState } from 'react'

export interface Pick {
  title: string
  /** The heading that it stands under. */
  under: string
  says: string
  picture?: ReactNode
  onPick(): void
}

interface Props {
  /** What one looks for: "a step". */
  what: string
  trigger: ReactNode
  /** What can be picked; it is asked for only while the picker is open. */
  children(close: () => void): ReactNode
}

/** A button, given as `trigger`, that opens pictures to choose from. */
export function Picker({ what, trigger, children }: Props) {
  const [open, setOpen] = useState(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={`Choose ${what}`}
          align="end"
          sideOffset={6}
          collisionPadding={12}
          className="z-40 flex max-h-(--radix-popover-content-available-height) w-[520px] flex-col rounded-xl border border-line bg-raised p-3 shadow-2xl"
        >
          {children(() => setOpen(false))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

const COLUMNS = 3

/** Pictures in groups, found by typing and walked with the arrow keys. */
export function Picks({ what, picks }: { what: string; picks: Pick[] }) {
  const [text, setText] = useState('')
  const list = useRef<HTMLDivElement>(null)
  const wanted = text.trim().toLowerCase()
  const found = picks.filter((pick) =>
    `${pick.title} ${pick.under} ${pick.says}`.toLowerCase().includes(wanted),
  )
  found.sort((a, b) => startsWith(b, wanted) - startsWith(a, wanted))
  const groups = [...new Set(found.map((pick) => pick.under))]

  function walk(event: KeyboardEvent) {
    const buttons = [...(list.current?.querySelectorAll('button') ?? [])]
    const at = buttons.indexOf(event.target as HTMLButtonElement)
    const ways: Record<string, number> =
      at < 0
        ? { ArrowDown: 1 }
        : { ArrowDown: COLUMNS, ArrowUp: -COLUMNS, ArrowLeft: -1, ArrowRight: 1 }
    const way = ways[event.key]
    if (!way) return
    event.preventDefault()
    buttons[Math.min(buttons.length - 1, Math.max(0, at + way))]?.focus()
  }

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys between its buttons
    <div onKeyDown={walk} className="contents">
      <input
        aria-label={`Search for ${what}`}
        placeholder="Search"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return
          // What the pick opens may take the focus, and is not to be pressed by the same key.
          event.preventDefault()
          found[0]?.onPick()
        }}
        className="h-8 w-full shrink-0 rounded-lg border border-line bg-ground px-2.5 text-sm"
      />
      <div ref={list} className="mt-2 min-h-0 overflow-y-auto">
        {groups.map((group) => (
          <section key={group} aria-label={group}>
            <h3 className="pt-2 pb-1 text-xs text-quiet first-letter:uppercase">{group}</h3>
            <ul className="grid grid-cols-3 gap-2">
              {found
                .filter((pick) => pick.under === group)
                .map((pick) => (
                  <li key={pick.title}>
                    <button
                      type="button"
                      title={pick.says}
                      onClick={pick.onPick}
                      className="flex h-full w-full flex-col overflow-hidden rounded-lg text-left hover:bg-pressed"
                    >
                      {pick.picture}
                      <span className="px-1.5 pt-1 text-sm">{pick.title}</span>
                      <span className="mx-1.5 mb-1.5 line-clamp-2 text-xs text-quiet">
                        {pick.says}
                      </span>
                    </button>
                  </li>
                ))}
            </ul>
          </section>
        ))}
        {found.length === 0 && (
          <p className="py-3 text-sm text-quiet">Nothing is called that. Try another word.</p>
        )}
      </div>
    </div>
  )
}

function startsWith(pick: Pick, wanted: string): number {
  return wanted !== '' && pick.title.toLowerCase().startsWith(wanted) ? 1 : 0
}
