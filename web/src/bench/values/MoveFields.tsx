import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { settingsLike } from '../../recipe/like'
import { held, keysOf, type MoveField, moveNamed, namesFor, withFields } from '../../recipe/moves'
import type { Change, Move, Plain, Reference, Setting, Value, XY } from '../../recipe/types'
import { isMove } from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { unitOf } from '../../recipe/wording'
import { Button } from '../../ui/Button'
import { SelectField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { make } from '../editing/make'
import { AnyField } from './AnyField'
import { FormulaFields } from './FormulaFields'
import { clamped } from './ranges'

interface Fields {
  setting: Setting
  move: Move
  /** Where the setting is, if it is one of a layer. */
  where?: Where
  /** What the value is at this moment. */
  now: Plain
  onChange(value: Value): void
}

/** How a value moves, to be changed: the fields that its way declares. */
export function MoveFields(props: Fields) {
  const fields = moveNamed(props.move.moves)?.fields ?? []
  return (
    <div className="grid gap-3">
      {fields.map((field) => (
        <OneField key={field.name} {...props} field={field} />
      ))}
    </div>
  )
}

function OneField({ field, ...props }: Fields & { field: MoveField }) {
  const { setting, move, where, onChange } = props
  const value = held(move, field, setting)
  const put = (next: Plain | Change | Reference) => onChange({ ...move, [field.name]: next })
  switch (field.type) {
    case 'keys':
      return <KeysField move={move} />
    case 'name':
      return <NameField field={field} {...props} />
    case 'setting':
      return <LikeField field={field} {...props} />
    case 'text':
      return <FormulaFields {...{ field, move, where, onChange }} />
    case 'choice':
      return (
        <SelectField
          label={field.label}
          value={String(value)}
          onChange={(event) => put(event.target.value)}
        >
          {Object.entries(field.choices).map(([choice, label]) => (
            <option key={choice} value={choice}>
              {label}
            </option>
          ))}
        </SelectField>
      )
    case 'number':
    case 'whole':
      return (
        <NumberField
          label={field.label}
          value={value as number}
          unit={field.unit}
          onChange={(next) => {
            const within = Math.min(field.most ?? next, Math.max(field.least ?? next, next))
            put(field.type === 'whole' ? Math.round(within) : within)
          }}
        />
      )
    default:
      if (isMove(value as Value)) return null
      return (
        <AnyField
          label={field.label}
          value={value}
          unit={field.type === 'share' ? '' : `${unitOf(setting)}${field.unit}`}
          onChange={(next) =>
            put(field.type === 'still' && typeof next === 'number' ? clamped(next, setting) : next)
          }
        />
      )
  }
}

/** Its keys are in its lane below the picture. */
function KeysField({ move }: { move: Move }) {
  const frames = keysOf(move)?.map((key) => key.frame) ?? []
  const count = frames.length === 1 ? 'One key' : `${frames.length} keys`
  return (
    <p className="text-sm text-quiet">
      {count}, from frame {Math.min(...frames)} to {Math.max(...frames)}. They are in its lane below
      the picture.
    </p>
  )
}

/** What it names, of all that there are, or a new point where the value is now. */
function NameField({ field, move, now, onChange }: Fields & { field: MoveField }) {
  const recipe = useDocument((store) => store.recipe)
  if (!recipe) return null
  const choices = namesFor(field, recipe)
  const chosen = choices.find(({ change }) =>
    Object.entries(change).every(([name, value]) => move[name] === value),
  )
  return (
    <>
      <SelectField
        label={field.label}
        value={chosen?.label ?? ''}
        onChange={(event) => {
          const choice = choices.find((known) => known.label === event.target.value)
          if (choice) onChange(withFields(move, choice.change))
        }}
      >
        {choices.map(({ label }) => (
          <option key={label}>{label}</option>
        ))}
      </SelectField>
      <Button
        look="quiet"
        className="-ml-2 w-fit"
        onClick={() =>
          make('add a point', { does: 'add a point', at: now as XY }).then(
            (point) => point && onChange({ moves: move.moves, point }),
          )
        }
      >
        A new point here
      </Button>
    </>
  )
}

/** Another setting of the same sort, from all those that there are. */
function LikeField({ field, setting, move, where, onChange }: Fields & { field: MoveField }) {
  const recipe = useDocument((store) => store.recipe)
  const catalogue = useQuery(catalogueQuery).data
  if (!recipe || !catalogue) return null
  const choices = settingsLike(recipe, catalogue, setting.type, where)
  const { layer, of = 'source', setting: name } = move[field.name] as Reference
  return (
    <SelectField
      label={field.label}
      value={`${layer} ${of} ${name}`}
      onChange={(event) => {
        const choice = choices.find((known) => known.id === event.target.value)
        if (choice) onChange({ ...move, [field.name]: choice.reference })
      }}
    >
      {choices.map(({ id, label }) => (
        <option key={id} value={id}>
          {label}
        </option>
      ))}
    </SelectField>
  )
}
