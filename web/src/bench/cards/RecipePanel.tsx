import { useQuery } from '@tanstack/react-query'
import { useDocumentParts } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import {
  changeLayer,
  changeLife,
  changeNode,
  changeShared,
  changeShutter,
  namedBy,
  RESULT,
} from '../../recipe/edits'
import { useBenchParts } from '../editing/store'
import { SettingValue } from '../values/SettingValue'
import { Card } from './Card'
import { ElementNote } from './ElementNote'
import { Limits } from './Limits'
import { ReturnNote } from './ReturnNote'
import { Steps } from './Steps'

const PANEL =
  'flex min-h-0 shrink-0 flex-col gap-2.5 border-t border-line px-4 py-3 wide:shrink wide:overflow-y-auto wide:border-t-0 wide:border-l'

/** The chosen layer as sentences: its source, then its steps in order. */
export function RecipePanel() {
  const { recipe, change, settle } = useDocumentParts('recipe', 'change', 'settle')
  const { chosen, card, set } = useBenchParts('chosen', 'card', 'set')
  const catalogue = useQuery(catalogueQuery)
  if (!recipe || !catalogue.data) return null
  const layer = recipe.layers.find((known) => known.id === chosen)
  const { sources, layer: parts } = catalogue.data
  if (chosen === RESULT) {
    return (
      <aside aria-label="Recipe" className={PANEL}>
        <h2 className="text-lg font-semibold">Result</h2>
        <p className="text-sm text-quiet">What is done to all layers together.</p>
        <Steps of={RESULT} />
      </aside>
    )
  }
  if (!layer) {
    return (
      <aside aria-label="Recipe" className={`${PANEL} text-quiet`}>
        {recipe.layers.length > 0
          ? 'Choose a layer above to see how it is made.'
          : 'There is no layer yet. Add one above.'}
      </aside>
    )
  }
  const source = sources.find((known) => known.name === layer.source.kind)
  const first = layer.first ?? recipe.canvas.first
  const last = layer.last ?? recipe.canvas.last

  return (
    <aside aria-label="Recipe" className={PANEL}>
      <div className="flex items-baseline gap-2">
        <input
          aria-label="Name of the layer"
          value={layer.name}
          maxLength={80}
          onChange={(event) =>
            event.target.value.trim() &&
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
            setting={parts.opacity}
            value={layer.opacity ?? 100}
            id={`${layer.id} opacity`}
            where={['layers', layer.id, 'opacity']}
            onPut={(all, value) => changeLayer(all, layer.id, { opacity: value })}
          />
        </span>
      </div>
      {source && (
        <Card
          kind={source}
          node={layer.source}
          id={layer.id}
          where={['layers', layer.id, 'source']}
          isHeld={card === 'source'}
          onHold={() => set({ card: 'source' })}
          onPut={(all, name, value) => changeNode(all, { layer: layer.id }, { [name]: value })}
        >
          {source.name === 'element' && <ElementNote name={String(layer.source.of)} />}
          <ReturnNote layer={layer} kind={source} />
        </Card>
      )}
      <Steps of={layer.id} />
      <section
        aria-label="Limits of the layer"
        className="shrink-0 px-3.5"
        onPointerDown={() => set({ card: 'source' })}
        onFocus={() => set({ card: 'source' })}
      >
        <Limits
          limits={layer.limits ?? []}
          what="this layer"
          id={`${layer.id} layer`}
          where={['layers', layer.id, 'limits']}
          onPut={(all, limits) => changeLayer(all, layer.id, { limits })}
        />
      </section>
      {catalogue.data.named
        .filter((kind) => !kind.by_hand)
        .flatMap((kind) =>
          namedBy(recipe, layer, [...sources, ...catalogue.data.steps], kind).map((each) => (
            <Card
              key={`${kind.name} ${each.name}`}
              kind={{ ...kind, title: `Shared: ${each.name}` }}
              node={each}
              id={`${kind.name} ${each.name}`}
              where={[kind.listed, each.name]}
              onPut={(all, name, value) => changeShared(all, kind, each.name, name, value)}
            />
          )),
        )}
      <Card
        kind={parts.life}
        node={layer.life ?? {}}
        id={`${layer.id} life`}
        onPut={(all, name, value) => changeLife(all, layer.id, name, value)}
      />
      <Card
        kind={parts.shutter}
        node={layer.shutter ?? {}}
        id={`${layer.id} shutter`}
        onPut={(all, name, value) => changeShutter(all, layer.id, name, value)}
      />
    </aside>
  )
}
