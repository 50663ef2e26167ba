import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery, life as lifeQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import {
  addStep,
  changeLayer,
  changeLife,
  changeNode,
  changeStep,
  removeStep,
} from '../recipe/edits'
import { OPACITY } from '../recipe/opacity'
import { Menu } from '../ui/Menu'
import { Card } from './Card'
import { ElementNote } from './ElementNote'
import { Limits } from './Limits'
import { SettingValue } from './SettingValue'
import { useBench } from './store'

const FAMILIES = ['light', 'blur', 'warp', 'place', 'matte', 'colour', 'time']

/** The chosen layer as sentences: its source, then its steps in order. */
export function RecipePanel() {
  const { recipe, change, settle } = useDocument()
  const chosen = useBench((store) => store.chosen)
  const catalogue = useQuery(catalogueQuery)
  const life = useQuery(lifeQuery)
  if (!recipe || !catalogue.data) return null
  const layer = recipe.layers.find((known) => known.id === chosen)
  const { sources, steps } = catalogue.data
  if (!layer) {
    return (
      <aside aria-label="Recipe" className="border-l border-line p-6 text-quiet">
        {recipe.layers.length > 0
          ? 'Choose a layer above to see how it is made.'
          : 'There is no layer yet. Add one above.'}
      </aside>
    )
  }
  const byFamily = [...steps].sort(
    (a, b) => FAMILIES.indexOf(a.family) - FAMILIES.indexOf(b.family),
  )
  const source = sources.find((known) => known.name === layer.source.kind)
  const first = layer.first ?? recipe.canvas.first
  const last = layer.last ?? recipe.canvas.last

  return (
    <aside
      aria-label="Recipe"
      className="flex min-h-0 flex-col gap-2.5 overflow-y-auto border-l border-line px-4 py-3"
    >
      <div className="flex items-baseline gap-2">
        <input
          aria-label="Name of the layer"
          value={layer.name}
          maxLength={80}
          onChange={(event) =>
            event.target.value &&
            change(
              'rename layer',
              changeLayer(recipe, layer.id, { name: event.target.value }),
              'rename',
            )
          }
          onBlur={settle}
          className="-ml-1 field-sizing-content min-w-16 rounded px-1 text-lg font-semibold hover:bg-raised"
        />
        <span className="text-sm text-quiet">
          {layer.source.kind} · frames {first}–{last}
        </span>
        <span className="ml-auto text-sm whitespace-nowrap text-quiet">
          at{' '}
          <SettingValue
            setting={OPACITY}
            value={layer.opacity ?? 100}
            id={`${layer.id} opacity`}
            onPut={(all, value) => changeLayer(all, layer.id, { opacity: value })}
          />
        </span>
      </div>
      {source && (
        <Card
          kind={source}
          node={layer.source}
          id={layer.id}
          onPut={(all, name, value) => changeNode(all, { layer: layer.id }, { [name]: value })}
        >
          {source.name === 'element' && <ElementNote name={String(layer.source.of)} />}
        </Card>
      )}
      {layer.steps.map((step) => {
        const kind = steps.find((known) => known.name === step.kind)
        if (!kind) return null
        const place = { layer: layer.id, step: step.id }
        const isOn = step.on !== false
        const flip = () => change('switch step', changeNode(recipe, place, { on: !isOn }))
        return (
          <Card
            key={step.id}
            kind={kind}
            node={step}
            id={`${layer.id} ${step.id}`}
            onPut={(all, name, value) => changeNode(all, place, { [name]: value })}
            isOn={isOn}
            onSwitch={flip}
            onRemove={() => change('remove step', removeStep(recipe, layer.id, step.id))}
          >
            <Limits
              limits={step.limits ?? []}
              what="this step"
              id={`${layer.id} ${step.id}`}
              onPut={(all, limits) => changeStep(all, place, { limits })}
            />
          </Card>
        )
      })}
      <Menu
        trigger={
          <button
            type="button"
            className="h-9 shrink-0 rounded-xl border border-line border-dashed text-sm text-quiet hover:bg-panel hover:text-text"
          >
            Add a step
          </button>
        }
        items={byFamily.map((step) => ({
          label: step.title,
          under: step.family,
          says: step.help,
          onPick: () => change(`add ${step.name}`, addStep(recipe, layer.id, step.name)),
        }))}
      />
      <div className="shrink-0 px-3.5">
        <Limits
          limits={layer.limits ?? []}
          what="this layer"
          id={`${layer.id} layer`}
          onPut={(all, limits) => changeLayer(all, layer.id, { limits })}
        />
      </div>
      {life.data && (
        <Card
          kind={life.data}
          node={layer.life ?? {}}
          id={`${layer.id} life`}
          onPut={(all, name, value) => changeLife(all, layer.id, name, value)}
        />
      )}
    </aside>
  )
}
