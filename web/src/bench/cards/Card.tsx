import { memo, type ReactNode, useState } from 'react'
import { sentenceOf, settingsBeside, spoken } from '../../recipe/sentence'
import { type KindEntry, type Recipe, type Setting, type Value, valueIn } from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { Menu, type MenuItem } from '../../ui/Menu'
import { SettingValue } from '../values/SettingValue'

/** What a dragged step is known by. */
const DRAGGED = 'text/x-step'

interface Props {
  kind: KindEntry
  node: { [setting: string]: Value }
  /** What keeps its values apart from those of other cards, for undo. */
  id: string
  /** Where its settings are, if they may move. */
  where?: Where
  onPut(recipe: Recipe, name: string, value: Value): Recipe
  isOn?: boolean
  onSwitch?(): void
  /** What else can be done with it. */
  actions?: MenuItem[]
  /** Whether its handles are on the picture, and that they are wanted. */
  isHeld?: boolean
  onHold?(): void
  /** Dragged by its title, it takes another one's place. */
  move?: { id: string; onDrop(id: string): void }
  /** What stands below its sentence. */
  children?: ReactNode
}

/** A source or a step as its sentence, with the values in it to be changed. */
export function Card({
  kind,
  node,
  id,
  where,
  onPut,
  isOn = true,
  onSwitch,
  isHeld = false,
  onHold,
  move,
  actions,
  children,
}: Props) {
  const [more, setMore] = useState(false)
  const beside = settingsBeside(kind)
  const seed = beside.find((setting) => setting.name === 'seed')
  const others = beside.filter((setting) => setting !== seed)

  const show = (setting: Setting) => (
    <CardValue
      key={setting.name}
      setting={setting}
      value={valueIn(node, setting)}
      id={`${id} ${setting.name}`}
      where={where}
      onPut={onPut}
    />
  )

  return (
    <section
      aria-label={kind.title}
      onPointerDown={onHold}
      onFocus={onHold}
      onDragOver={(event) =>
        move && event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()
      }
      onDrop={(event) => {
        event.preventDefault()
        move?.onDrop(event.dataTransfer.getData(DRAGGED))
      }}
      className={`shrink-0 rounded-xl bg-panel px-3.5 py-3 ${isOn ? '' : 'opacity-60'}`}
    >
      <div className="mb-1.5 flex items-center gap-2">
        <h2
          title={kind.help}
          draggable={move !== undefined}
          onDragStart={(event) => move && event.dataTransfer.setData(DRAGGED, move.id)}
          className={`font-semibold ${move ? 'cursor-grab' : ''} ${isHeld ? 'text-accent' : ''}`}
        >
          {kind.title}
        </h2>
        <span className="ml-auto text-sm text-quiet">
          {seed && <>seed {show(seed)}</>}
          {onSwitch && (
            <button
              type="button"
              aria-pressed={isOn}
              aria-label={`${kind.title} is ${isOn ? 'on' : 'off'}`}
              onClick={onSwitch}
              className="rounded px-1 hover:text-text"
            >
              {isOn ? 'on' : 'off'}
            </button>
          )}
        </span>
        {actions && (
          <Menu
            trigger={
              <button
                type="button"
                aria-label={`More for ${kind.title}`}
                className="rounded px-1 text-quiet hover:text-text"
              >
                ⋯
              </button>
            }
            items={actions}
          />
        )}
      </div>
      <p className="whitespace-pre-line leading-[1.75] text-quiet">
        {sentenceOf(kind).map((part) =>
          'words' in part ? (
            part.words
          ) : (
            <span
              key={part.setting.name}
              className={part.after && !part.setting.pieces ? 'whitespace-nowrap' : ''}
            >
              {show(part.setting)}
              {part.after}
            </span>
          ),
        )}
      </p>
      {others.length > 0 && (
        <button
          type="button"
          aria-expanded={more}
          onClick={() => setMore(!more)}
          className="mt-1 text-sm text-quiet hover:text-text"
        >
          {more ? '▾ Fewer settings' : `▸ ${others.length} more settings`}
        </button>
      )}
      {more && (
        <dl className="mt-1.5 grid grid-cols-[1fr_auto] gap-x-4 gap-y-1.5">
          {others.map((setting) => (
            <div key={setting.name} className="contents">
              <dt className="text-quiet" title={setting.help}>
                {spoken(setting.name)}
              </dt>
              <dd className="text-right">{show(setting)}</dd>
            </div>
          ))}
        </dl>
      )}
      {children}
    </section>
  )
}

interface CardValueProps {
  setting: Setting
  value: Value
  id: string
  where?: Where
  onPut: Props['onPut']
}

/** One of a card's values. How it is put depends on its `id` alone, so another `onPut` is no news. */
const CardValue = memo(
  ({ setting, value, id, where, onPut }: CardValueProps) => (
    <SettingValue
      setting={setting}
      value={value}
      id={id}
      where={where && [...where, setting.name]}
      onPut={(recipe, next) => onPut(recipe, setting.name, next)}
    />
  ),
  (before, now) =>
    before.setting === now.setting && before.value === now.value && before.id === now.id,
)
