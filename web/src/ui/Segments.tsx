import { ToggleGroup } from 'radix-ui'

interface Props<T extends string> {
  label: string
  value: T
  options: readonly { value: T; label: string; disabled?: boolean }[]
  onChange(value: T): void
}

/** One of a few, side by side. */
export function Segments<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="flex w-fit max-w-full flex-wrap rounded-[14px] bg-panel p-0.5"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          disabled={option.disabled}
          className="h-6 rounded-full px-2.5 text-xs text-quiet hover:text-text disabled:opacity-40 data-[state=on]:bg-pressed data-[state=on]:text-text"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}
