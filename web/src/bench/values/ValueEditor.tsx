import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../../api/queries'
import { useDocument } from '../../document/document'
import { beginsAt, elapsedAt, placeAt } from '../../recipe/edits'
import { settingsLike } from '../../recipe/like'
import { spoken } from '../../recipe/sentence'
import {
  isMove,
  isPoint,
  type Plain,
  type Setting,
  type Three,
  type Value,
  type XY,
} from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { COUNTED } from '../../recipe/wording'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { Segments } from '../../ui/Segments'
import { Slider } from '../../ui/Slider'
import { make } from '../editing/make'
import { useBench, useBenchParts } from '../editing/store'
import { ColourFields } from './ColourFields'
import { MoveFields } from './MoveFields'
import { PairFields } from './PairFields'
import { rangeOf, stepOf } from './ranges'
import { ValueGraph } from './ValueGraph'

const NO_LIGHT: Three = [0, 0, 0]

interface Props {
  setting: Setting
  name: string
  value: Value
  typed?: string
  where?: Where
  onChange(value: Value, gesture?: string): void
  onSettle(): void
}

/** What opens on a value: the value itself, its unit, and how it moves. */
export function ValueEditor({ setting, name, value, typed, where, onChange, onSettle }: Props) {
  const way = isMove(value) ? value.moves : 'still'
  const still = useStillValue(value, setting)
  const ways = ['still', ...setting.moves]
  const recipe = useDocument((store) => store.recipe)
  const frame = useBench((store) => store.frame)
  const catalogue = useQuery(catalogueQuery).data
  const firstPoint = recipe?.points[0]?.name
  const like = recipe && catalogue && settingsLike(recipe, catalogue, setting.type, where)[0]
  const isColour = setting.type === 'colour'
  const cannot: Record<string, boolean> = { like: !like }
  const usable = ways.filter((name) => name === way || !cannot[name])

  function move(next: string) {
    if (next === way || !recipe) return
    if (next === 'follow' && !firstPoint) {
      void make('add a point', { does: 'add a point', at: still as XY }).then(
        (point) => point && onChange({ moves: 'follow', point }),
      )
      return
    }
    const none = isColour ? NO_LIGHT : Array.isArray(still) ? ([0, 0] as XY) : 0
    const number = still as number | XY
    const begin: Record<string, Value | undefined> = {
      still,
      keys: { moves: 'keys', keys: [{ frame, value: still as Plain }] },
      rate: { moves: 'rate', start: number, per_second: none },
      follow: firstPoint ? { moves: 'follow', point: firstPoint } : undefined,
      life: { moves: 'life', start: isColour ? '#000000' : (none as number | XY), end: number },
      like: like && { moves: 'like', setting: like.reference },
      jitter: { moves: 'jitter', value: number, amount: none, per_second: 10 },
      formula: { moves: 'formula', value: number, formula: 'still' },
      pulse: { moves: 'pulse', value: number, amount: none, shape: 'sine', period: 1 },
    }
    const begun = begin[next]
    if (begun !== undefined) onChange(begun)
  }

  return (
    <div className="grid gap-3">
      <div>
        <p className="font-semibold first-letter:uppercase">{name}</p>
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
        <>
          {where && (
            <ValueGraph where={where} unit={COUNTED.has(setting.unit) ? '' : setting.unit} />
          )}
          <MoveFields setting={setting} move={value} where={where} onChange={onChange} />
        </>
      ) : (
        <StillFields {...{ setting, name, value, typed, onChange, onSettle }} />
      )}
      <Button
        look="quiet"
        className="-my-1 -ml-2 w-fit"
        onClick={() => onChange(setting.default as Value)}
      >
        Reset
      </Button>
    </div>
  )
}

function StillFields({ setting, name, value, typed, onChange, onSettle }: Props) {
  if (isPoint(value)) return <PairFields value={value} unit="px" onChange={onChange} />
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
      <ColourFields
        name={setting.name}
        value={String(value)}
        onChange={onChange}
        onSettle={onSettle}
      />
    )
  }
  if (typeof value === 'string') {
    const take = (text: string) => onChange(text.trim())
    return (
      <TextField
        label="Name"
        defaultValue={value}
        key={value}
        onBlur={(event) => take(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && take(event.currentTarget.value)}
      />
    )
  }
  const number = value as number
  const [least, most] = rangeOf(setting)
  return (
    <>
      <Slider
        label={name}
        value={number}
        least={least}
        most={most}
        step={stepOf(setting)}
        onChange={(next) => onChange(next, `slide ${setting.name}`)}
        onSettle={onSettle}
      />
      <NumberField
        label="Value"
        autoFocus
        typed={typed}
        value={number}
        unit={setting.unit}
        least={setting.least ?? undefined}
        most={setting.most ?? undefined}
        onChange={(next) => onChange(setting.type === 'whole' ? Math.round(next) : next)}
      />
      <p className="text-xs text-faint">
        From {setting.least} to {setting.most} {setting.unit}
      </p>
    </>
  )
}

/** The plain value that a value has at the current frame, as far as it is worked out here. */
function useStillValue(value: Value, setting: Setting): Value {
  const recipe = useDocument((store) => store.recipe)
  const { frame, chosen } = useBenchParts('frame', 'chosen')
  if (!isMove(value) || !recipe) return value
  const begins = beginsAt(recipe, chosen)
  if (setting.type === 'point') return placeAt(recipe, value, frame, begins) ?? [0, 0]
  switch (value.moves) {
    case 'rate':
      return (
        (value.start as number) +
        (value.per_second as number) * elapsedAt(recipe, value, frame, begins)
      )
    case 'life':
      return value.end
    case 'jitter':
    case 'pulse':
    case 'formula':
      return isMove(value.value) ? value.value.start : value.value
    case 'keys':
      return value.keys[0]?.value ?? (setting.default as Value)
    default:
      return setting.default as Value
  }
}
