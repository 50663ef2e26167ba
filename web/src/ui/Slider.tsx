import { Slider as Radix } from 'radix-ui'

interface Props {
  label: string
  value: number
  least: number
  most: number
  step: number
  onChange(value: number): void
  onSettle(): void
}

export function Slider({ label, value, least, most, step, onChange, onSettle }: Props) {
  return (
    <Radix.Root
      value={[Math.min(most, Math.max(least, value))]}
      min={least}
      max={most}
      step={step}
      onValueChange={([next]) => next !== undefined && onChange(next)}
      onValueCommit={onSettle}
      className="relative flex h-5 w-full touch-none items-center select-none"
    >
      <Radix.Track className="relative h-1 grow rounded-full bg-pressed forced-colors:border forced-colors:border-[ButtonText]">
        <Radix.Range className="absolute h-full rounded-full bg-accent forced-colors:bg-[Highlight]" />
      </Radix.Track>
      <Radix.Thumb
        aria-label={label}
        className="block size-4 rounded-full bg-text shadow focus-visible:outline-2 focus-visible:outline-offset-2 focus-visible:outline-accent"
      />
    </Radix.Root>
  )
}
