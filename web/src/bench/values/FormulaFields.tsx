import { useDocument } from '../../document/document'
import { type Formula, isMove, type Plain, type Setting, type Value } from '../../recipe/types'
import { pathOf, type Where } from '../../recipe/where'
import { TextField } from '../../ui/Field'
import { usePictures } from '../looking/pictures'
import { AnyField } from './AnyField'

interface Props {
  setting: Setting
  move: Formula
  where?: Where
  onChange(value: Value): void
}

/** A formula, taken on Enter or on leaving it, with what is wrong under the column where it is. */
export function FormulaFields({ setting, move, where, onChange }: Props) {
  const texts = [move.formula].flat()
  function take(text: string, axis: number) {
    if (!text.trim() || text.trim() === texts[axis]) return
    const next = texts.with(axis, text.trim())
    onChange({ ...move, formula: typeof move.formula === 'string' ? text.trim() : next })
  }
  return (
    <>
      {texts.map((text, axis) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an axis is its place
        <div key={`${axis} ${text}`}>
          <TextField
            label={axis === 0 ? 'Formula of t, f, fps, n, seed, life and still' : 'Down'}
            defaultValue={text}
            spellCheck={false}
            onBlur={(event) => take(event.target.value, axis)}
            onKeyDown={(event) => event.key === 'Enter' && take(event.currentTarget.value, axis)}
          />
          <Wrong text={text} where={where} axis={texts.length > 1 ? axis : undefined} />
        </div>
      ))}
      {!isMove(move.value) && (
        <AnyField
          label="Value"
          value={move.value}
          unit={setting.unit}
          onChange={(value) => onChange({ ...move, value: value as Plain })}
        />
      )}
    </>
  )
}

/** What the server says of this formula, its mark standing under the column that it means. */
function Wrong({ text, where, axis }: { text: string; where?: Where; axis?: number }) {
  const recipe = useDocument((store) => store.recipe)
  const problem = usePictures((store) => store.problem)
  if (!recipe || !where || !problem) return null
  const path = `${pathOf(recipe, where)}.formula${axis === undefined ? '' : `[${axis}]`}`
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
