import type { XY } from '../../recipe/types'
import { NumberField } from '../../ui/NumberField'

interface PairProps {
  title?: string
  value: XY
  unit: string
  onChange(value: XY): void
}

/** Two numbers of a place or a distance. */
export function PairFields({ title, value: [x, y], unit, onChange }: PairProps) {
  return (
    <fieldset>
      {title && <legend className="mb-1 text-xs text-quiet">{title}</legend>}
      <div className="flex gap-3">
        <NumberField
          label="Across"
          value={x}
          unit={unit}
          onChange={(next) => onChange([next, y])}
        />
        <NumberField label="Down" value={y} unit={unit} onChange={(next) => onChange([x, next])} />
      </div>
    </fieldset>
  )
}
