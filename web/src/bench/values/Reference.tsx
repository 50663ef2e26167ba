import { useDocument } from '../../document/document'
import { spoken } from '../../recipe/sentence'
import type { Recipe, Setting, Value } from '../../recipe/types'
import { make } from '../editing/make'
import { useBench } from '../editing/store'
import { useEdit } from '../editing/useEdit'

/** Stands among the names for one that is not there yet. */
const NEW = ' new'

interface Props {
  setting: Setting
  value: string
  onPut(recipe: Recipe, value: Value): Recipe
}

/** The name of a layer, a sway or a path in a sentence, chosen from those that there are. */
export function Reference({ setting, value, onPut }: Props) {
  const { edit, finish } = useEdit()
  const recipe = useDocument((store) => store.recipe)
  const set = useBench((store) => store.set)
  const chosen = useBench((store) => store.chosen)
  if (!recipe) return null
  const put = (name: string) => edit(`change ${spoken(setting.name)}`, (all) => onPut(all, name))

  /** A new one: a path is drawn on the picture, a sway is there at once. */
  function begin() {
    if (setting.of === 'path') {
      set({ drawing: { closed: false, onDrawn: (all, path) => onPut(all, path) } })
    } else {
      const gesture = 'add a sway'
      void make(gesture, { does: 'add a sway' }, gesture).then((name) => {
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
      {known(recipe, setting, chosen).map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
      {setting.type === 'named' && (
        <option value={NEW}>{setting.of === 'path' ? 'draw one …' : 'a new one'}</option>
      )}
    </select>
  )
}

/** Those that there are; a layer is not made from itself. */
function known(recipe: Recipe, setting: Setting, chosen?: string): [string, string][] {
  if (setting.type === 'layer') {
    return recipe.layers.filter(({ id }) => id !== chosen).map(({ id, name }) => [id, name])
  }
  if (setting.type === 'element') return (recipe.elements ?? []).map(({ name }) => [name, name])
  const named = setting.of === 'sway' ? recipe.sways : recipe.paths
  return (named ?? []).map(({ name }) => [name, name])
}
