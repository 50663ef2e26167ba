import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { catalogue, type RecipeChange } from '../../recipe/asking'
import { sharedOf } from '../../recipe/edits'
import { spoken } from '../../recipe/sentence'
import type { NamedEntry, Recipe, Setting, Value } from '../../recipe/types'
import { make } from '../editing/make'
import { useBench } from '../editing/store'
import { useEdit } from '../editing/useEdit'

type Listed = Extract<RecipeChange, { does: 'add by name' }>['what']

/** Stands among the names for one that is not there yet. */
const NEW = ' new'

interface Props {
  setting: Setting
  value: string
  onPut(recipe: Recipe, value: Value): Recipe
}

/** The name of a layer, or of what layers share, in a sentence, chosen from those that there are. */
export function Reference({ setting, value, onPut }: Props) {
  const { edit, finish } = useEdit()
  const named = useQuery(catalogue).data?.named.find((kind) => kind.name === setting.of)
  const recipe = useDocument((store) => store.recipe)
  const set = useBench((store) => store.set)
  const chosen = useBench((store) => store.chosen)
  if (!recipe) return null
  const put = (name: string) => edit(`change ${spoken(setting.name)}`, (all) => onPut(all, name))

  /** A new one: what is drawn by hand is drawn on the picture, all else is there at once. */
  function begin() {
    if (named?.by_hand) {
      set({ drawing: { closed: false, onDrawn: (all, path) => onPut(all, path) } })
    } else if (named) {
      const gesture = `add a ${named.name}`
      const what = named.listed as Listed
      void make(gesture, { does: 'add by name', what }, gesture).then((name) => {
        if (name) edit(gesture, (all) => onPut(all, name), gesture)
        finish()
      })
    }
  }

  return (
    <select
      aria-label={spoken(setting.name)}
      title={setting.help}
      value={value}
      onChange={(event) => (event.target.value === NEW ? begin() : put(event.target.value))}
      className="max-w-40 rounded-sm border-b border-faint bg-panel font-semibold text-text hover:bg-raised"
    >
      <option value="">none</option>
      {known(recipe, setting, named, chosen).map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
      {setting.type === 'named' && (
        <option value={NEW}>{named?.by_hand ? 'draw one …' : 'a new one'}</option>
      )}
    </select>
  )
}

/** Those that there are; a layer is not made from itself. */
function known(
  recipe: Recipe,
  setting: Setting,
  named: NamedEntry | undefined,
  chosen?: string,
): [string, string][] {
  if (setting.type === 'layer') {
    return recipe.layers.filter(({ id }) => id !== chosen).map(({ id, name }) => [id, name])
  }
  if (setting.type === 'element') return (recipe.elements ?? []).map(({ name }) => [name, name])
  return named ? sharedOf(recipe, named).map(({ name }) => [name, name]) : []
}
