import { useDocument } from '../recipe/document'
import { elapsedAt, placeAt } from '../recipe/edits'
import { spoken } from '../recipe/sentence'
import { type Follow, isMove, type Rate, type Setting, type Value, type XY } from '../recipe/types'
import { Button } from '../ui/Button'
import { SelectField, TextField } from '../ui/Field'
import { NumberField } from '../ui/NumberField'
import { Segments } from '../ui/Segments'
import { Slider } from '../ui/Slider'
import { clamped, rangeOf, stepOf } from './ranges'
import { useBench } from './store'

interface Props {
  setting: Setting
  value: Value
  typed?: string
  onChange(value: Value, gesture?: string): void
  onSettle(): void
}

/** What opens on a value: the value itself, its unit, and how it moves. */
export function ValueEditor({ setting, value, typed, onChange, onSettle }: Props) {
  const way = isMove(value) ? value.moves : 'still'
  const still = useStillValue(value)
  const ways = ['still', ...setting.moves]
  const firstPoint = useDocument((store) => store.recipe?.points[0]?.name)
  const usable = firstPoint ? ways : ways.filter((name) => name !== 'follow')

  function move(next: string) {
    if (next === way) return
    if (next === 'still') onChange(still)
    if (next === 'rate') {
      const standing = Array.isArray(still) ? ([0, 0] as XY) : 0
      onChange({ moves: 'rate', start: still as number | XY, per_second: standing })
    }
    if (next === 'follow' && firstPoint) onChange({ moves: 'follow', point: firstPoint })
  }

  return (
    <div className="grid gap-3">
      <div>
        <div className="flex items-baseline justify-between">
          <p className="font-semibold first-letter:uppercase">{spoken(setting.name)}</p>
          <Button look="quiet" className="-mr-2" onClick={() => onChange(setting.default as Value)}>
            Reset
          </Button>
        </div>
        <p className="text-sm text-quiet">{setting.help}</p>
      </div>
      {usable.length > 1 && (
        <Segments
          label="How it moves"
          value={way}
          options={usable.map((name) => ({
            value: name,
            label: name[0]?.toUpperCase() + name.slice(1),
          }))}
          onChange={move}
        />
      )}
      {isMove(value) ? (
        value.moves === 'rate' ? (
          <RateFields setting={setting} rate={value} onChange={onChange} />
        ) : (
          <FollowFields follow={value} onChange={onChange} />
        )
      ) : (
        <StillFields {...{ setting, value, typed, onChange, onSettle }} />
      )}
    </div>
  )
}

function StillFields({ setting, value, typed, onChange, onSettle }: Props) {
  if (Array.isArray(value)) return <PairFields value={value} unit="px" onChange={onChange} />
  if (setting.type === 'choice') {
    return (
      <Segments
        label={spoken(setting.name)}
        value={String(value)}
        options={setting.choices.map((name) => ({ value: name, label: name }))}
        onChange={onChange}
      />
    )
  }
  if (setting.type === 'colour') {
    return (
      <div className="flex items-end gap-3">
        <input
          type="color"
          aria-label="Pick a colour"
          value={String(value)}
          onChange={(event) => onChange(event.target.value, `colour ${setting.name}`)}
          onBlur={onSettle}
          className="h-8 w-14 rounded-lg border border-line bg-ground"
        />
        <TextField
          label="sRGB"
          defaultValue={String(value)}
          key={String(value)}
          onBlur={(event) => {
            const text = event.target.value.trim()
            if (/^#[0-9a-f]{6}$/i.test(text)) onChange(text.toLowerCase())
            else event.target.value = String(value)
          }}
        />
      </div>
    )
  }
  const number = value as number
  const [least, most] = rangeOf(setting)
  return (
    <>
      <Slider
        label={spoken(setting.name)}
        value={number}
        least={least}
        most={most}
        step={stepOf(setting)}
        onChange={(next) => onChange(next, `slide ${setting.name}`)}
        onSettle={onSettle}
      />
      <NumberField
        label="Value"
        typed={typed}
        value={number}
        unit={setting.unit}
        onChange={(next) =>
          onChange(clamped(setting.type === 'whole' ? Math.round(next) : next, setting))
        }
      />
      <p className="text-xs text-faint">
        From {setting.least} to {setting.most} {setting.unit}
      </p>
    </>
  )
}

interface RateProps {
  setting: Setting
  rate: Rate
  onChange(value: Value): void
}

function RateFields({ setting, rate, onChange }: RateProps) {
  const { start, per_second: perSecond, offset = 0 } = rate
  if (Array.isArray(start) && Array.isArray(perSecond)) {
    return (
      <>
        <PairFields
          title="Starts at"
          value={start}
          unit="px"
          onChange={(next) => onChange({ ...rate, start: next })}
        />
        <PairFields
          title="Moves by"
          value={perSecond}
          unit="px/s"
          onChange={(next) => onChange({ ...rate, per_second: next })}
        />
      </>
    )
  }
  const unit = setting.unit === 'cycles' ? 'per second' : `${setting.unit} per second`
  return (
    <div className="grid gap-3">
      <NumberField
        label="Changes by"
        value={perSecond as number}
        unit={unit}
        onChange={(next) => onChange({ ...rate, per_second: next })}
      />
      <NumberField
        label="Starts at"
        value={start as number}
        unit={setting.unit}
        onChange={(next) => onChange({ ...rate, start: clamped(next, setting) })}
      />
      <NumberField
        label="Is ahead by"
        value={offset}
        unit="seconds"
        onChange={(next) => onChange({ ...rate, offset: next })}
      />
    </div>
  )
}

interface FollowProps {
  follow: Follow
  onChange(value: Value): void
}

function FollowFields({ follow, onChange }: FollowProps) {
  const points = useDocument((store) => store.recipe?.points) ?? []
  return (
    <>
      <SelectField
        label="Stays with"
        value={follow.point}
        onChange={(event) => onChange({ ...follow, point: event.target.value })}
      >
        {points.map((point) => (
          <option key={point.name}>{point.name}</option>
        ))}
      </SelectField>
      <PairFields
        title="Offset"
        value={follow.offset ?? [0, 0]}
        unit="px"
        onChange={(next) => onChange({ ...follow, offset: next })}
      />
    </>
  )
}

interface PairProps {
  title?: string
  value: XY
  unit: string
  onChange(value: XY): void
}

function PairFields({ title, value: [x, y], unit, onChange }: PairProps) {
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

/** The plain value that a value has at the current frame. */
function useStillValue(value: Value): Value {
  const recipe = useDocument((store) => store.recipe)
  const frame = useBench((store) => store.frame)
  if (!isMove(value) || !recipe) return value
  const place = value.moves === 'follow' || Array.isArray(value.start)
  if (place) return placeAt(recipe, value, frame) ?? [0, 0]
  const rate = value as Rate
  return (rate.start as number) + (rate.per_second as number) * elapsedAt(recipe, rate, frame)
}
