import { oneOf, sentenceOf, spoken } from '../../recipe/sentence'
import { type Piece, valueIn } from '../../recipe/types'
import { Menu } from '../../ui/Menu'
import { useEdit } from '../editing/useEdit'
import { PlainValue } from './PlainValue'
import type { PiecesProps } from './pieces'

/** Several alike in a sentence: each as its own words, and a way to add one or take one out. */
export function Pieces({ setting, value, id, where, onPut }: PiecesProps) {
  const { edit } = useEdit()
  const kind = setting.pieces
  if (!kind) return null
  const name = spoken(setting.name)
  const one = oneOf(setting.name)
  const least = setting.least ?? 0
  const most = setting.most ?? value.length

  function put(pieces: Piece[], what: string) {
    edit(what, (recipe) => onPut(recipe, pieces))
  }

  return (
    <>
      {value.map((piece, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no other name than their place
        <span key={i}>
          {i > 0 && (i === value.length - 1 ? ' and ' : ', ')}
          {sentenceOf(kind).map((part) =>
            'words' in part ? (
              part.words
            ) : (
              <span key={part.setting.name} className={part.after && 'whitespace-nowrap'}>
                <PlainValue
                  setting={part.setting}
                  value={valueIn(piece, part.setting)}
                  id={`${id} ${i} ${part.setting.name}`}
                  where={where && [...where, i, part.setting.name]}
                  label={`${spoken(part.setting.name)} of ${one} ${i + 1}`}
                  onPut={(recipe, next) =>
                    onPut(recipe, changed(value, i, { [part.setting.name]: next }))
                  }
                />
                {part.after}
              </span>
            ),
          )}
        </span>
      ))}
      {value.length === 0 && `No ${name}`}{' '}
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`Change the number of ${name}`}
            className="rounded px-1 text-faint hover:text-text"
          >
            {value.length === 0 ? 'Add one' : '±'}
          </button>
        }
        items={[
          {
            label: `Add a ${one}`,
            disabled: value.length >= most,
            onPick: () => put([...value, { ...value.at(-1) }], `add ${one}`),
          },
          {
            label: `Remove the last ${one}`,
            loss: true,
            disabled: value.length <= least,
            onPick: () => put(value.slice(0, -1), `remove ${one}`),
          },
        ]}
      />
    </>
  )
}

function changed(pieces: Piece[], index: number, change: Piece): Piece[] {
  return pieces.map((piece, i) => (i === index ? { ...piece, ...change } : piece))
}
