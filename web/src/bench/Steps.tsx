import { useQuery } from '@tanstack/react-query'
import { catalogue as catalogueQuery } from '../api/queries'
import { useDocument } from '../recipe/document'
import { addStep, changeNode, changeStep, moveStep, removeStep, stepsOf } from '../recipe/edits'
import type { Node } from '../recipe/types'
import { Menu, type MenuItem } from '../ui/Menu'
import { Card } from './Card'
import { Limits } from './Limits'
import { useBench } from './store'

const FAMILIES = ['light', 'blur', 'warp', 'place', 'matte', 'colour', 'time']

/** The steps of a layer, or of the result, as cards in order, and another at their end. */
export function Steps({ of }: { of: string }) {
  const { recipe, change } = useDocument()
  const { copiedStep, set } = useBench()
  const catalogue = useQuery(catalogueQuery)
  if (!recipe || !catalogue.data) return null
  const kinds = catalogue.data.steps
  const steps = stepsOf(recipe, of)
  const byFamily = [...kinds].sort(
    (a, b) => FAMILIES.indexOf(a.family) - FAMILIES.indexOf(b.family),
  )
  const title = (node: Node) => kinds.find((kind) => kind.name === node.kind)?.title ?? node.kind
  const paste: MenuItem[] = copiedStep
    ? [
        {
          label: `Paste ${title(copiedStep)}`,
          says: 'With the settings that it had where it was copied.',
          onPick: () => change(`paste ${copiedStep.kind}`, addStep(recipe, of, copiedStep)),
        },
      ]
    : []

  return (
    <>
      {steps.map((step, i) => {
        const kind = kinds.find((known) => known.name === step.kind)
        if (!kind) return null
        const place = { layer: of, step: step.id }
        const isOn = step.on !== false
        const move = (by: number) => change(`move ${step.kind}`, moveStep(recipe, of, step.id, by))
        return (
          <Card
            key={step.id}
            kind={kind}
            node={step}
            id={`${of} ${step.id}`}
            onPut={(all, name, value) => changeNode(all, place, { [name]: value })}
            isOn={isOn}
            onSwitch={() => change('switch step', changeNode(recipe, place, { on: !isOn }))}
            actions={[
              { label: 'Move up', disabled: i === 0, onPick: () => move(-1) },
              { label: 'Move down', disabled: i === steps.length - 1, onPick: () => move(1) },
              {
                label: 'Copy',
                onPick: () => {
                  const { id: _, ...copied } = step
                  set({ copiedStep: copied as Node })
                },
              },
              {
                label: 'Remove',
                loss: true,
                onPick: () => change('remove step', removeStep(recipe, of, step.id)),
              },
            ]}
          >
            <Limits
              limits={step.limits ?? []}
              what="this step"
              id={`${of} ${step.id}`}
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
        items={[
          ...paste,
          ...byFamily.map((kind) => ({
            label: kind.title,
            under: kind.family,
            says: kind.help,
            onPick: () => change(`add ${kind.name}`, addStep(recipe, of, { kind: kind.name })),
          })),
        ]}
      />
    </>
  )
}
