import { DropdownMenu } from 'radix-ui'
import { Fragment, type ReactNode } from 'react'

export interface MenuItem {
  label: string
  /** The heading that it stands under. */
  under?: string
  says?: string
  loss?: boolean
  disabled?: boolean
  onPick(): void
}

interface Props {
  trigger: ReactNode
  items: MenuItem[]
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
          {items.map((item) => (
            <Fragment key={`${item.under ?? ''} ${item.label}`}>
              {item.under && item.under !== before(items, item)?.under && (
                <DropdownMenu.Label className="px-2.5 pt-2 pb-1 text-xs text-faint first-letter:uppercase">
                  {item.under}
                </DropdownMenu.Label>
              )}
              <DropdownMenu.Item
                disabled={item.disabled}
                onSelect={item.onPick}
                className={`max-w-72 cursor-default rounded-lg px-2.5 py-1.5 text-sm outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-pressed ${item.loss ? 'text-coral' : 'text-text'}`}
              >
                {item.label}
                {item.says && <span className="block text-xs text-quiet">{item.says}</span>}
              </DropdownMenu.Item>
            </Fragment>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

function before(items: MenuItem[], item: MenuItem): MenuItem | undefined {
  return items[items.indexOf(item) - 1]
}
