import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { changeLayer } from '../../recipe/edits'
import type { Layer } from '../../recipe/types'
import { valueText } from '../../recipe/wording'
import { SelectField } from '../../ui/Field'
import { Panel } from '../../ui/Panel'
import { Segments } from '../../ui/Segments'
import { Slider } from '../../ui/Slider'
import { useEdit } from '../editing/useEdit'

const SIGNS: Record<string, string> = { add: '+', normal: '▸', multiply: '×', subtract: '−' }

/** On light as it is, or on the signal as browsers and editors do. */
const BLENDS_IN = [
  { value: 'light', label: 'In light' },
  { value: 'seen', label: 'As seen' },
]

/** How a layer mixes with what is before it: the sign between two pictures. */
export function Operator({ layer }: { layer: Layer }) {
  const catalogue = useQuery(catalogueQuery)
  const { edit, finish } = useEdit()
  const blend = layer.blend ?? 'normal'
  const { opacity = 100 } = layer
  if (!catalogue.data) return null
  const says = valueText(opacity, catalogue.data.layer.opacity)

  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`How ${layer.name} mixes: ${blend}, ${says}`}
        className="mt-3 w-12 shrink-0 rounded-lg py-1 text-center text-sm text-quiet hover:bg-panel hover:text-text"
      >
        <span aria-hidden className="block text-lg leading-5 text-text">
          {SIGNS[blend] ?? '∘'}
        </span>
        {blend}
        {opacity !== 100 && <span className="block text-xs">{says}</span>}
      </Popover.Trigger>
      <Panel label={`How ${layer.name} mixes`} width="w-64">
        <SelectField
          label="Blend"
          value={blend}
          onChange={(event) =>
            edit('change blend', (all) => changeLayer(all, layer.id, { blend: event.target.value }))
          }
        >
          {catalogue.data.blends.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </SelectField>
        <Segments
          label="Blends in"
          value={layer.blends_in ?? 'light'}
          options={BLENDS_IN}
          onChange={(blends_in) =>
            edit('change what the blend acts on', (all) =>
              changeLayer(all, layer.id, { blends_in }),
            )
          }
        />
        {typeof opacity === 'number' ? (
          <div className="flex items-center gap-3">
            <Slider
              label="Amount"
              value={opacity}
              least={0}
              most={100}
              step={1}
              onChange={(next) =>
                edit(
                  'change amount',
                  (all) => changeLayer(all, layer.id, { opacity: next }),
                  'opacity',
                )
              }
              onSettle={finish}
            />
            <span className="w-12 text-right text-sm">{says}</span>
          </div>
        ) : (
          <p className="text-sm text-quiet">Mixed in at {says}, as set beside the layer's name.</p>
        )}
      </Panel>
    </Popover.Root>
  )
}
