import { DropdownMenu } from 'radix-ui'
import { type ReactNode, useRef } from 'react'

export interface MenuItem {
  label: string
  says?: string
  loss?: boolean
  disabled?: boolean
  /** Whether it goes on where something is typed: then it is done once the list is gone. */
  takesFocus?: boolean
  onPick(): void
}

interface Props {
  trigger: ReactNode
  /** What can be done; a function is asked when it opens. */
  items: MenuItem[] | (() => MenuItem[])
}

/** A button, given as `trigger`, that opens a list of things to do. */
export function Menu({ trigger, items }: Props) {
  const after = useRef<() => void>(undefined)
  function pick({ takesFocus, onPick }: MenuItem) {
    if (takesFocus) after.current = onPick
    else onPick()
  }
  function closed(event: Event) {
    if (!after.current) return
    event.preventDefault()
    after.current()
    after.current = undefined
  }
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          collisionPadding={12}
          onCloseAutoFocus={closed}
          className="z-50 max-h-(--radix-dropdown-menu-content-available-height) min-w-40 overflow-y-auto rounded-xl border border-line bg-raised p-1 shadow-2xl"
        >
          <Items items={items} onPick={pick} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

function Items({ items, onPick }: Pick<Props, 'items'> & { onPick(item: MenuItem): void }) {
  const all = typeof items === 'function' ? items() : items
  return all.map((item) => (
    <DropdownMenu.Item
      key={item.label}
      disabled={item.disabled}
      onSelect={() => onPick(item)}
      className={`max-w-72 cursor-default rounded-lg px-2.5 py-1.5 text-sm outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-pressed ${item.loss ? 'text-coral' : 'text-text'}`}
    >
      {item.label}
      {item.says && <span className="block text-xs text-quiet">{item.says}</span>}
    </DropdownMenu.Item>
  ))
}
