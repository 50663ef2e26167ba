import { Popover } from 'radix-ui'
import { useState } from 'react'
import { sentenceOf, spoken } from '../../recipe/sentence'
import { type Piece, valueIn } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { Panel } from '../../ui/Panel'
import { useEdit } from '../editing/useEdit'
import { CurvePicture } from './CurvePicture'
import { PlainValue } from './PlainValue'
import type { PiecesProps } from './pieces'
import { RampPicture } from './RampPicture'

const PICTURES = {
  curve: CurvePicture,
  ramp: RampPicture,
}

/** A curve or a ramp in a sentence as a small picture, edited as a large one. */
export function PiecesPicture({ setting, value, id, where, onPut }: PiecesProps) {
  const { edit, finish } = useEdit()
  const [chosen, setChosen] = useState(0)
  const kind = setting.pieces
  const Drawn = PICTURES[kind?.pictured as keyof typeof PICTURES]
  const along = kind?.settings[0]
  if (!kind || !Drawn || !along) return null
  const name = spoken(setting.name)
  const piece = value[Math.min(chosen, value.length - 1)]
  const at = piece ? value.indexOf(piece) : -1

  function put(pieces: Piece[], gesture?: string) {
    edit(`change ${name}`, (recipe) => onPut(recipe, pieces), gesture && `${id} ${gesture}`)
  }
  function add(made: Piece) {
    if (value.length >= (setting.most ?? value.length + 1)) return
    put([...value, made])
    setChosen(value.length)
  }
  const shared = {
    pieces: value,
    along,
    up: kind.settings.find((known) => known !== along && known.type === 'number'),
    label: name,
    onChoose: setChosen,
    onChange: put,
    onAdd: add,
    onSettle: finish,
  }

  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`${name}: ${value.length} ${value.length === 1 ? 'point' : 'points'}`}
        title={setting.help}
        className="inline-block h-4 w-16 translate-y-0.5 overflow-hidden rounded border border-faint bg-ground align-baseline"
      >
        <Drawn {...shared} chosen={-1} isSmall />
      </Popover.Trigger>
      <Panel label={`Change ${name}`} width="w-[340px]">
        <div>
          <p className="font-semibold first-letter:uppercase">{name}</p>
          <p className="text-sm text-quiet">
            {setting.help} Press where there is nothing to add one; Delete takes one out.
          </p>
        </div>
        <Drawn {...shared} chosen={at} />
        {piece && (
          <p className="text-sm leading-[1.75] text-quiet">
            {sentenceOf(kind).map((part) =>
              'words' in part ? (
                part.words
              ) : (
                <span key={part.setting.name}>
                  <PlainValue
                    setting={part.setting}
                    value={valueIn(piece, part.setting)}
                    id={`${id} ${at} ${part.setting.name}`}
                    where={where && [...where, at, part.setting.name]}
                    onPut={(recipe, next) =>
                      onPut(recipe, value.with(at, { ...piece, [part.setting.name]: next }))
                    }
                  />
                  {part.after}
                </span>
              ),
            )}
          </p>
        )}
        <div className="flex justify-between">
          <Button look="quiet" className="-ml-2" onClick={() => put(setting.default as Piece[])}>
            Reset
          </Button>
          <Button
            look="quiet"
            disabled={value.length <= (setting.least ?? 0)}
            onClick={() => put(value.filter((_, i) => i !== at))}
          >
            Take it out
          </Button>
        </div>
      </Panel>
    </Popover.Root>
  )
}
