import { useQuery } from '@tanstack/react-query'
import { useDocumentParts } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { changeNode, changeStep, moveStep, RESULT, removeStep, stepsOf } from '../../recipe/edits'
import type { Node } from '../../recipe/types'
import { useBenchParts } from '../editing/store'
import { Card } from './Card'
import { Limits } from './Limits'
import { StepPicker } from './StepPicker'

/** The steps of a layer, or of the result, as cards in order, and another at their end. */
export function Steps({ of }: { of: string }) {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  const { card, set } = useBenchParts('card', 'set')
  const catalogue = useQuery(catalogueQuery)
  if (!recipe || !catalogue.data) return null
  const kinds = catalogue.data.steps
  const steps = stepsOf(recipe, of)
  return (
    <>
      {steps.map((step, i) => {
        const kind = kinds.find((known) => known.name === step.kind)
        if (!kind) return null
        const place = { layer: of, step: step.id }
        const where = of === RESULT ? ['finish', step.id] : ['layers', of, 'steps', step.id]
        const isOn = step.on !== false
        const move = (by: number) => change(`move ${step.kind}`, moveStep(recipe, of, step.id, by))
        return (
          <Card
            key={step.id}
            kind={kind}
            node={step}
            id={`${of} ${step.id}`}
            where={where}
            onPut={(all, name, value) => changeNode(all, place, { [name]: value })}
            isOn={isOn}
            isHeld={card === step.id}
            onHold={() => set({ card: step.id })}
            move={{
              id: step.id,
              onDrop: (id) => {
                const from = steps.findIndex((other) => other.id === id)
                if (from < 0 || from === i) return
                change(`move ${steps[from]?.kind}`, moveStep(recipe, of, id, i - from))
              },
            }}
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
              where={[...where, 'limits']}
              onPut={(all, limits) => changeStep(all, place, { limits })}
            />
          </Card>
        )
      })}
      <StepPicker of={of} />
    </>
  )
}
