import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { sentenceOf, spoken } from '../../recipe/sentence'
import { type KindEntry, type Node, type Recipe, type Value, valueIn } from '../../recipe/types'
import type { Where } from '../../recipe/where'
import { Menu } from '../../ui/Menu'
import { useBench } from '../editing/store'
import { useEdit } from '../editing/useEdit'
import { SettingValue } from '../values/SettingValue'

interface Props {
  limits: Node[]
  /** What is limited, as one would say it: "this layer". */
  what: string
  id: string
  where: Where
  onPut(recipe: Recipe, limits: Node[]): Recipe
}

/** Where a layer shows or a step acts: each limit as its sentence, and a way to add one. */
export function Limits({ limits, what, id, where, onPut }: Props) {
  const { edit } = useEdit()
  const setBench = useBench((store) => store.set)
  const kinds = useQuery(catalogueQuery).data?.limits ?? []
  const put = (name: string, next: Node[]) => edit(name, (recipe) => onPut(recipe, next))
  return (
    <div className="text-sm text-quiet">
      {limits.map((limit, i) => {
        const kind = kinds.find((known) => known.name === limit.kind)
        if (!kind) return null
        const others = limits.filter((_, place) => place !== i)
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: limits have no other name than their place
          <p key={i} className="mt-1 border-t border-line pt-1 leading-[1.75]">
            <LimitWords
              kind={kind}
              limit={limit}
              id={`${id} limit ${i}`}
              where={[...where, i]}
              onPut={(recipe, change) =>
                onPut(
                  recipe,
                  limits.map((each, place) =>
                    place === i ? ({ ...each, ...change } as Node) : each,
                  ),
                )
              }
            />{' '}
            <button
              type="button"
              aria-label={`Remove the limit ${kind.title}`}
              onClick={() => put('remove limit', others)}
              className="rounded px-1 text-faint hover:text-coral"
            >
              ×
            </button>
          </p>
        )
      })}
      <Menu
        trigger={
          <button type="button" className="mt-1 rounded text-faint hover:text-text">
            Limit {what}
          </button>
        }
        items={[
          {
            label: 'Draw a mask',
            says: 'Press its corners on the picture; bend and move them afterwards.',
            onPick: () =>
              setBench({
                drawing: {
                  closed: true,
                  onDrawn: (recipe, path) =>
                    onPut(recipe, [...limits, { kind: 'outline', path } as Node]),
                },
              }),
          },
          ...kinds.map((kind) => ({
            label: kind.title,
            says: kind.help,
            onPick: () => put(`limit by ${kind.name}`, [...limits, { kind: kind.name }]),
          })),
        ]}
      />
    </div>
  )
}

interface WordsProps {
  kind: KindEntry
  limit: Node
  id: string
  where: Where
  onPut(recipe: Recipe, change: { [name: string]: Value }): Recipe
}

/** A limit's own sentence, and how it joins those before it. */
function LimitWords({ kind, limit, id, where, onPut }: WordsProps) {
  const value = (name: string, after = '') => {
    const setting = kind.settings.find((known) => known.name === name)
    if (!setting) return null
    return (
      <span key={name} className={after && 'whitespace-nowrap'}>
        <SettingValue
          setting={setting}
          value={valueIn(limit, setting)}
          id={`${id} ${name}`}
          where={[...where, name]}
          label={`${spoken(name)} of the limit`}
          onPut={(recipe, next) => onPut(recipe, { [name]: next })}
        />
        {after}
      </span>
    )
  }
  return (
    <>
      {sentenceOf(kind).map((part) =>
        'words' in part ? part.words : value(part.setting.name, part.after),
      )}{' '}
      Joined by {value('joins', ',')} inverted {value('inverted', '.')}
    </>
  )
}
