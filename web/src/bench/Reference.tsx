import { useDocument } from '../recipe/document'
import { spoken } from '../recipe/sentence'
import type { Recipe, Setting, Value } from '../recipe/types'
import { useEdit } from './useEdit'

interface Props {
  setting: Setting
  value: string
  onPut(recipe: Recipe, value: Value): Recipe
}

/** The name of a layer, a sway or a path in a sentence, chosen from those that there are. */
export function Reference({ setting, value, onPut }: Props) {
  const { edit } = useEdit()
  const recipe = useDocument((store) => store.recipe)
  if (!recipe) return null
  return (
    <select
      aria-label={spoken(setting.name)}
      title={setting.help}
      value={value}
      onChange={(event) =>
        edit(`change ${spoken(setting.name)}`, (all) => onPut(all, event.target.value))
      }
      className="max-w-40 rounded-sm border-b border-faint bg-panel font-semibold text-text hover:bg-raised"
    >
      <option value="">none</option>
      {known(recipe, setting).map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  )
}

function known(recipe: Recipe, setting: Setting): [string, string][] {
  if (setting.type === 'layer') return recipe.layers.map((layer) => [layer.id, layer.name])
  if (setting.type === 'element') return (recipe.elements ?? []).map(({ name }) => [name, name])
  const named = setting.of === 'sway' ? recipe.sways : recipe.paths
  return (named ?? []).map(({ name }) => [name, name])
}
