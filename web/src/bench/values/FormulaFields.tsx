import { useDocument } from '../../document/document'
import type { MoveField } from '../../recipe/moves'
import type { Move, Value } from '../../recipe/types'
import { pathOf, type Where } from '../../recipe/where'
import { TextField } from '../../ui/Field'
import { usePictures } from '../looking/pictures'

interface Props {
  field: MoveField
  move: Move
  where?: Where
  onChange(value: Value): void
}

/** A formula, taken on Enter or on leaving it, with what is wrong under the column where it is. */
export function FormulaFields({ field, move, where, onChange }: Props) {
  const written = move[field.name] as string | string[]
  const texts = [written].flat()
  function take(text: string, axis: number) {
    if (!text.trim() || text.trim() === texts[axis]) return
    const next = texts.with(axis, text.trim())
    onChange({ ...move, [field.name]: typeof written === 'string' ? text.trim() : next })
  }
  return (
    <>
      {texts.map((text, axis) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an axis is its place
        <div key={`${axis} ${text}`}>
          <TextField
            label={axis === 0 ? field.label : 'Down'}
            defaultValue={text}
            spellCheck={false}
            onBlur={(event) => take(event.target.value, axis)}
            onKeyDown={(event) => event.key === 'Enter' && take(event.currentTarget.value, axis)}
          />
          <Wrong
            text={text}
            where={where}
            field={field.name}
            axis={texts.length > 1 ? axis : undefined}
          />
        </div>
      ))}
    </>
  )
}

/** What the server says of this formula, its mark standing under the column that it means. */
function Wrong(props: { text: string; where?: Where; field: string; axis?: number }) {
  const { text, where, field, axis } = props
  const recipe = useDocument((store) => store.recipe)
  const problem = usePictures((store) => store.problem)
  if (!recipe || !where || !problem) return null
  const path = `${pathOf(recipe, where)}.${field}${axis === undefined ? '' : `[${axis}]`}`
  const found = problem.problems.find((known) => known.path === path)
  if (!found) return null
  const column = Number(found.says.match(/^At column (\d+)/)?.[1] ?? 0)
  return (
    <div role="alert" className="text-coral">
      {column > 0 && (
        <p aria-hidden className="h-3 overflow-hidden pl-[11px] text-sm leading-3 whitespace-pre">
          <span className="invisible">{text.slice(0, column - 1)}</span>▴
        </p>
      )}
      <p className="text-xs">{found.says}</p>
    </div>
  )
}
