import { useDocument } from '../recipe/document'
import {
  type Follow,
  type Formula,
  isMove,
  isPoint,
  type Jitter,
  type Keys,
  type Life,
  type Move,
  type Pulse,
  type Rate,
  type Setting,
  type Value,
  type XY,
} from '../recipe/types'
import { SelectField, TextField } from '../ui/Field'
import { NumberField } from '../ui/NumberField'
import { PairFields } from './PairFields'
import { clamped } from './ranges'

interface Fields<M> {
  setting: Setting
  move: M
  onChange(value: Value): void
}

/** How a value moves, to be changed: what is offered depends on the way. */
export function MoveFields({ setting, move, onChange }: Fields<Move>) {
  switch (move.moves) {
    case 'rate':
      return <RateFields {...{ setting, move, onChange }} />
    case 'follow':
      return <FollowFields {...{ setting, move, onChange }} />
    case 'life':
      return <LifeFields {...{ setting, move, onChange }} />
    case 'jitter':
      return <JitterFields {...{ setting, move, onChange }} />
    case 'pulse':
      return <PulseFields {...{ setting, move, onChange }} />
    case 'formula':
      return <FormulaFields {...{ setting, move, onChange }} />
    case 'keys':
      return <KeysSummary {...{ setting, move, onChange }} />
  }
}

interface AnyProps {
  label: string
  value: Value
  unit: string
  onChange(value: number | XY): void
}

/** A number or a pair, by what it is. */
function AnyField({ label, value, unit, onChange }: AnyProps) {
  if (isPoint(value))
    return <PairFields title={label} value={value} unit={unit} onChange={onChange} />
  return <NumberField label={label} value={value as number} unit={unit} onChange={onChange} />
}

function LifeFields({ setting, move, onChange }: Fields<Life>) {
  const { unit } = setting
  if (setting.type === 'colour')
    return <p className="text-sm text-quiet">Set in the recipe file.</p>
  return (
    <>
      <AnyField
        label="Begins at"
        value={move.start}
        unit={unit}
        onChange={(start) => onChange({ ...move, start })}
      />
      <AnyField
        label="At full life"
        value={move.end}
        unit={unit}
        onChange={(end) => onChange({ ...move, end })}
      />
    </>
  )
}

function JitterFields({ setting, move, onChange }: Fields<Jitter>) {
  const { unit } = setting
  return (
    <>
      {!isMove(move.value) && (
        <AnyField
          label="Around"
          value={move.value}
          unit={unit}
          onChange={(value) => onChange({ ...move, value })}
        />
      )}
      <AnyField
        label="By up to"
        value={move.amount}
        unit={unit}
        onChange={(amount) => onChange({ ...move, amount })}
      />
      <NumberField
        label="Changes"
        value={move.per_second}
        unit="times a second"
        onChange={(next) => onChange({ ...move, per_second: Math.min(1000, Math.max(0.01, next)) })}
      />
      <NumberField
        label="Seed"
        value={move.seed ?? 0}
        onChange={(next) => onChange({ ...move, seed: Math.max(0, Math.round(next)) })}
      />
    </>
  )
}

const SHAPES = ['sine', 'triangle', 'square', 'saw', 'random']

function PulseFields({ setting, move, onChange }: Fields<Pulse>) {
  const { unit } = setting
  return (
    <>
      <SelectField
        label="Shape"
        value={move.shape ?? 'sine'}
        onChange={(event) => onChange({ ...move, shape: event.target.value })}
      >
        {SHAPES.map((shape) => (
          <option key={shape}>{shape}</option>
        ))}
      </SelectField>
      {!isMove(move.value) && (
        <AnyField
          label="Around"
          value={move.value}
          unit={unit}
          onChange={(value) => onChange({ ...move, value })}
        />
      )}
      <AnyField
        label="By"
        value={move.amount}
        unit={unit}
        onChange={(amount) => onChange({ ...move, amount })}
      />
      <NumberField
        label="Every"
        value={move.period}
        unit="seconds"
        onChange={(next) => onChange({ ...move, period: Math.max(0.001, next) })}
      />
    </>
  )
}

/** A formula, taken on Enter or on leaving it; what is wrong with it stands under the picture. */
function FormulaFields({ setting, move, onChange }: Fields<Formula>) {
  const take = (text: string) => text.trim() && onChange({ ...move, formula: text.trim() })
  return (
    <>
      <TextField
        label="Formula of t, f, fps, life and value"
        defaultValue={move.formula}
        key={move.formula}
        spellCheck={false}
        onBlur={(event) => take(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && take(event.currentTarget.value)}
      />
      {!isMove(move.value) && (
        <AnyField
          label="Value"
          value={move.value}
          unit={setting.unit}
          onChange={(value) => onChange({ ...move, value })}
        />
      )}
    </>
  )
}

/** Keys are set in the recipe file; here they are told. */
function KeysSummary({ move }: Fields<Keys>) {
  const frames = move.keys.map((key) => key.frame)
  return (
    <p className="text-sm text-quiet">
      {frames.length} keys, from frame {Math.min(...frames)} to {Math.max(...frames)}.
    </p>
  )
}

function RateFields({ setting, move: rate, onChange }: Fields<Rate>) {
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

function FollowFields({ move: follow, onChange }: Fields<Follow>) {
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
