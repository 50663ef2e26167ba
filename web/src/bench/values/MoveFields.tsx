import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../../api/queries'
import { useDocument } from '../../document/document'
import { placeAt } from '../../recipe/edits'
import { settingsLike } from '../../recipe/like'
import {
  type Change,
  type Follow,
  isMove,
  isPoint,
  type Jitter,
  type Keys,
  type Life,
  type Like,
  type Move,
  type Plain,
  type Pulse,
  type Rate,
  type Setting,
  type Value,
} from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { COUNTED } from '../../recipe/wording'
import { Button } from '../../ui/Button'
import { SelectField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { make } from '../editing/make'
import { useBench } from '../editing/store'
import { AnyField } from './AnyField'
import { FormulaFields } from './FormulaFields'
import { PairFields } from './PairFields'
import { clamped } from './ranges'

interface Fields<M> {
  setting: Setting
  move: M
  /** Where the setting is, if it is one of a layer. */
  where?: Where
  onChange(value: Value): void
}

/** How a value moves, to be changed: what is offered depends on the way. */
export function MoveFields({ setting, move, where, onChange }: Fields<Move>) {
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
      return <FormulaFields {...{ setting, move, where, onChange }} />
    case 'like':
      return <LikeFields {...{ setting, move, where, onChange }} />
    case 'keys':
      return <KeysFields {...{ setting, move, onChange }} />
  }
}

function LifeFields({ setting, move, onChange }: Fields<Life>) {
  const { unit } = setting
  return (
    <>
      <AnyField
        label="Begins at"
        value={move.start}
        unit={unit}
        onChange={(next) => onChange({ ...move, start: next as Plain })}
      />
      <AnyField
        label="At full life"
        value={move.end}
        unit={unit}
        onChange={(next) => onChange({ ...move, end: next as Plain })}
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
          onChange={(next) => onChange({ ...move, value: next as Plain })}
        />
      )}
      <AnyField
        label="By up to"
        value={move.amount}
        unit={unit}
        onChange={(next) => onChange({ ...move, amount: next as Change })}
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
          onChange={(next) => onChange({ ...move, value: next as Plain })}
        />
      )}
      <AnyField
        label="By"
        value={move.amount}
        unit={unit}
        onChange={(next) => onChange({ ...move, amount: next as Change })}
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

/** Its keys are in its lane below the picture; here is what it does beyond them. */
function KeysFields({ move, onChange }: Fields<Keys>) {
  const frames = move.keys.map((key) => key.frame)
  const count = frames.length === 1 ? 'One key' : `${frames.length} keys`
  return (
    <>
      <p className="text-sm text-quiet">
        {count}, from frame {Math.min(...frames)} to {Math.max(...frames)}. They are in its lane
        below the picture.
      </p>
      {(['before', 'after'] as const).map((side) => (
        <SelectField
          key={side}
          label={side === 'before' ? 'Before the first key' : 'After the last key'}
          value={move[side] ?? 'hold'}
          onChange={(event) => onChange({ ...move, [side]: event.target.value })}
        >
          <option value="hold">holds</option>
          <option value="cycle">begins again</option>
          <option value="mirror">goes back and forth</option>
          <option value="continue">goes straight on</option>
        </SelectField>
      ))}
    </>
  )
}

function RateFields({ setting, move: rate, onChange }: Fields<Rate>) {
  const { start, per_second: perSecond, offset = 0 } = rate
  const since = (
    <SelectField
      label="Starts with"
      value={rate.since ?? 'shot'}
      onChange={(event) => onChange({ ...rate, since: event.target.value })}
    >
      <option value="shot">the shot</option>
      <option value="layer">its layer</option>
    </SelectField>
  )
  const per = COUNTED.has(setting.unit) ? 'per second' : `${setting.unit} per second`
  return (
    <div className="grid gap-3">
      <AnyField
        label="Changes by"
        value={perSecond}
        unit={isPoint(perSecond) ? 'px/s' : per}
        onChange={(next) => onChange({ ...rate, per_second: next as Change })}
      />
      <AnyField
        label="Starts at"
        value={start}
        unit={setting.unit}
        onChange={(next) =>
          onChange({
            ...rate,
            start: typeof next === 'number' ? clamped(next, setting) : (next as Plain),
          })
        }
      />
      <NumberField
        label="Is ahead by"
        value={offset}
        unit="seconds"
        onChange={(next) => onChange({ ...rate, offset: next })}
      />
      {since}
    </div>
  )
}

function FollowFields({ move: follow, onChange }: Fields<Follow>) {
  const recipe = useDocument((store) => store.recipe)
  const frame = useBench((store) => store.frame)
  const choices = [
    ...(recipe?.points ?? []).map(({ name }) => ({ label: name, change: { point: name } })),
    ...(recipe?.tracks ?? []).map(({ name }) => ({
      label: `track ${name}`,
      change: { track: name },
    })),
  ]
  const { point, track, ...rest } = follow
  return (
    <>
      <SelectField
        label="Stays with"
        value={point ?? `track ${track}`}
        onChange={(event) => {
          const choice = choices.find((known) => known.label === event.target.value)
          if (choice) onChange({ ...rest, ...choice.change })
        }}
      >
        {choices.map(({ label }) => (
          <option key={label}>{label}</option>
        ))}
      </SelectField>
      <Button
        look="quiet"
        className="-ml-2 w-fit"
        onClick={() => {
          if (!recipe) return
          const at = placeAt(recipe, follow, frame) ?? [0, 0]
          void make('add a point', { does: 'add a point', at }).then(
            (point) => point && onChange({ moves: 'follow', point }),
          )
        }}
      >
        A new point here
      </Button>
      <PairFields
        title="Offset"
        value={follow.offset ?? [0, 0]}
        unit="px"
        onChange={(next) => onChange({ ...follow, offset: next })}
      />
      <NumberField
        label="Smoothed over"
        value={follow.smoothing ?? 0}
        unit="frames each way"
        onChange={(next) => onChange({ ...follow, smoothing: Math.min(250, Math.max(0, next)) })}
      />
    </>
  )
}

/** Another setting of the same sort, from all those that there are. */
function LikeFields({ setting, move, where, onChange }: Fields<Like>) {
  const recipe = useDocument((store) => store.recipe)
  const catalogue = useQuery(catalogueQuery).data
  if (!recipe || !catalogue) return null
  const choices = settingsLike(recipe, catalogue, setting.type, where)
  const { layer, of = 'source', setting: name } = move.setting
  return (
    <>
      <SelectField
        label="As"
        value={`${layer} ${of} ${name}`}
        onChange={(event) => {
          const choice = choices.find((known) => known.id === event.target.value)
          if (choice) onChange({ ...move, setting: choice.reference })
        }}
      >
        {choices.map(({ id, label }) => (
          <option key={id} value={id}>
            {label}
          </option>
        ))}
      </SelectField>
      {setting.type === 'number' && (
        <>
          <NumberField
            label="Times"
            value={(move.scale as number | undefined) ?? 1}
            onChange={(scale) => onChange({ ...move, scale })}
          />
          <NumberField
            label="Plus"
            value={(move.offset as number | undefined) ?? 0}
            unit={setting.unit}
            onChange={(offset) => onChange({ ...move, offset })}
          />
        </>
      )}
    </>
  )
}
