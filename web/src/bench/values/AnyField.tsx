import { type Change, isPoint, type Three, type Value, type XY } from '../../recipe/types'
import { NumberField } from '../../ui/NumberField'
import { PairFields } from './PairFields'

type Any = number | string | XY | Three

interface Props {
  label: string
  value: Value | Change
  unit: string
  onChange(value: Any): void
}

const CHANNELS = ['Red', 'Green', 'Blue']

/** A number, a pair, a colour or a change of one, by what it is. */
export function AnyField({ label, value, unit, onChange }: Props) {
  if (isPoint(value))
    return <PairFields title={label} value={value} unit={unit} onChange={onChange} />
  if (typeof value === 'string') {
    return (
      <label className="flex items-center gap-3 text-xs text-quiet">
        <input
          type="color"
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className="h-8 w-14 rounded-lg border border-line bg-ground"
        />
        {label}
      </label>
    )
  }
  if (Array.isArray(value)) {
    const parts = value as Three
    return (
      <fieldset>
        <legend className="mb-1 text-xs text-quiet">{label}, in light</legend>
        <div className="flex gap-2">
          {CHANNELS.map((name, i) => (
            <NumberField
              key={name}
              label={name}
              value={parts[i] ?? 0}
              onChange={(next) => onChange(parts.with(i, next) as Three)}
            />
          ))}
        </div>
      </fieldset>
    )
  }
  return <NumberField label={label} value={value as number} unit={unit} onChange={onChange} />
}
