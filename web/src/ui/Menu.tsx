import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'

export interface MenuItem {
  label: string
  says?: string
  loss?: boolean
  disabled?: boolean
  onPick(): void
}

interface Props {
  trigger: ReactNode
  /** What can be done; a function is asked when it opens. */
  items: MenuItem[] | (() => MenuItem[])
}

/** A button, given as `trigger`, that opens a list of things to do. */
export function Menu({ trigger, items }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          collisionPadding={12}
          className="z-50 max-h-(--radix-dropdown-menu-content-available-height) min-w-40 overflow-y-auto rounded-xl border border-line bg-raised p-1 shadow-2xl"
        >
          <Items items={items} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

function Items({ items }: Pick<Props, 'items'>) {
  const all = typeof items === 'function' ? items() : items
  return all.map((item) => (
    <DropdownMenu.Item
      key={item.label}
      disabled={item.disabled}
      onSelect={item.onPick}
      className={`max-w-72 cursor-default rounded-lg px-2.5 py-1.5 text-sm outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-pressed ${item.loss ? 'text-coral' : 'text-text'}`}
    >
      {item.label}
      {item.says && <span className="block text-xs text-quiet">{item.says}</span>}
    </DropdownMenu.Item>
  ))
}
