import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { hexOfLight } from '../../recipe/colour'
import { settingsLike } from '../../recipe/like'
import { begun } from '../../recipe/moves'
import { spoken } from '../../recipe/sentence'
import { isMove, isPoint, type Plain, type Setting, type Value, type XY } from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { unitOf } from '../../recipe/wording'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { Segments } from '../../ui/Segments'
import { Slider } from '../../ui/Slider'
import { make } from '../editing/make'
import { useBench } from '../editing/store'
import { useCurve } from '../looking/useCurves'
import { ColourFields } from './ColourFields'
import { valueNow } from './CurveLine'
import { MoveFields } from './MoveFields'
import { PairFields } from './PairFields'
import { rangeOf, stepOf } from './ranges'
import { ValueGraph } from './ValueGraph'

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
  const now = useValueNow(value, setting, where)
  const ways = ['still', ...setting.moves]
  const recipe = useDocument((store) => store.recipe)
  const frame = useBench((store) => store.frame)
  const catalogue = useQuery(catalogueQuery).data
  const like = recipe && catalogue && settingsLike(recipe, catalogue, setting.type, where)[0]
  const beginning = recipe && { setting, now, frame, recipe, like: like?.reference }
  const usable = ways.filter(
    (name) => name === way || name === 'still' || setting.type === 'point' || beginningOf(name),
  )

  function beginningOf(name: string) {
    return beginning && begun(name, beginning)
  }
  function move(next: string) {
    if (next === way) return
    if (next === 'still') return onChange(now)
    const moving = beginningOf(next)
    if (moving) return onChange(moving)
    void make('add a point', { does: 'add a point', at: now as XY }).then(
      (point) => point && onChange({ moves: next, point }),
    )
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
          {where && <ValueGraph where={where} unit={unitOf(setting)} />}
          <MoveFields {...{ setting, move: value, where, now, onChange }} />
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
        label={setting.type === 'words' ? 'Text' : 'Name'}
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

/** The plain value that a value has at the current frame, as the engine tells. */
function useValueNow(value: Value, setting: Setting, where?: Where): Plain {
  const curve = useCurve(isMove(value) ? where : undefined)
  const frame = useBench((store) => store.frame)
  if (!isMove(value)) return value as Plain
  const told = curve && valueNow(curve, frame)
  if (!told) return setting.default as Plain
  if (told.length === 3) return hexOfLight(told)
  return told.length === 2 ? (told as XY) : (told[0] as number)
}
