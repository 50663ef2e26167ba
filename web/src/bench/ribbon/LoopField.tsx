import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useDocumentParts } from '../../document/document'
import { seam as seamQuery } from '../../recipe/asking'
import type { Recipe } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { NumberField } from '../../ui/NumberField'
import { numberText } from '../../ui/numbers'
import { Panel } from '../../ui/Panel'
import { useBench } from '../editing/store'
import { useResting } from '../looking/useResting'

const BEGINS_WITH = 12

/** Whether the shot loops without a seam, over how many frames it turns, and what a check says. */
export function LoopField() {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  if (!recipe) return null
  const loop = recipe.loop ?? 0
  const length = recipe.canvas.last - recipe.canvas.first + 1
  const put = (next: number) =>
    change('change the loop', {
      ...recipe,
      loop: Math.min(length, Math.max(0, Math.round(next))),
    })
  return (
    <Popover.Root>
      <Popover.Trigger
        title="Whether the shot can be played round without a seam"
        className={`h-6 rounded-full px-2 hover:bg-raised ${loop ? 'text-accent' : ''}`}
      >
        {loop > 0 ? `Seam over ${loop}` : 'Seam'}
      </Popover.Trigger>
      <Panel label="Loop without a seam" side="top" width="w-80">
        <div>
          <p className="font-semibold">Loop without a seam</p>
          <p className="text-sm text-quiet">
            On its last frames the shot turns into what came before its first one.
          </p>
        </div>
        <div className="flex items-end justify-between gap-3">
          <NumberField label="It turns over" unit="frames" value={loop} onChange={put} />
          {loop > 0 ? (
            <Button look="quiet" onClick={() => put(0)}>
              Do not loop
            </Button>
          ) : (
            <Button onClick={() => put(Math.min(BEGINS_WITH, Math.floor(length / 2)))}>
              Make it loop
            </Button>
          )}
        </div>
        <SeamCheck recipe={recipe} />
      </Panel>
    </Popover.Root>
  )
}

/** How the last frame meets the first one, beside how frames usually follow one another. */
function SeamCheck({ recipe }: { recipe: Recipe }) {
  const dragging = useBench((store) => store.dragging)
  const resting = useResting(recipe)
  const found = useQuery({ ...seamQuery(resting), enabled: !dragging })
  if (found.isPending) return <p className="text-sm text-quiet">Looking at the frames …</p>
  if (!found.data) return <p className="text-sm text-coral">{found.error?.message}</p>
  const { change, usual, holds } = found.data
  const percent = (share: number) => `${numberText(100 * share)} %`
  return (
    <p role="status" className="text-sm">
      <span className={holds ? 'text-accent' : 'text-amber'}>
        {holds ? 'No seam shows.' : 'The seam shows.'}
      </span>{' '}
      <span className="text-quiet">
        From the last frame to the first the picture changes by {percent(change)}; between frames in
        a row by up to {percent(usual)}.
      </span>
    </p>
  )
}
