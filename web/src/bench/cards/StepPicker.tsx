import { useQuery } from '@tanstack/react-query'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery, looks as looksQuery } from '../../recipe/asking'
import { RESULT } from '../../recipe/edits'
import type { KindEntry, Recipe } from '../../recipe/types'
import { ListedPicture } from '../../ui/ListedPicture'
import { type Pick, Picker, Picks } from '../../ui/Picker'
import { make } from '../editing/make'
import { useBenchParts } from '../editing/store'

const WIDTH = 200

/** Adds a step to a layer or to the result, chosen by what each would do to its picture. */
export function StepPicker({ of }: { of: string }) {
  const recipe = useDocument((store) => store.recipe)
  const catalogue = useQuery(catalogueQuery).data
  if (!recipe || !catalogue) return null
  return (
    <Picker
      what="a step"
      trigger={
        <button
          type="button"
          className="h-9 shrink-0 rounded-xl border border-line border-dashed text-sm text-quiet hover:bg-panel hover:text-text"
        >
          Add a step
        </button>
      }
    >
      {(close) => <Tried of={of} recipe={recipe} kinds={catalogue.steps} onDone={close} />}
    </Picker>
  )
}

interface TriedProps {
  of: string
  recipe: Recipe
  kinds: KindEntry[]
  onDone(): void
}

function Tried({ of, recipe, kinds, onDone }: TriedProps) {
  const shot = useDocument((store) => store.shotId) ?? ''
  const { frame, copiedStep } = useBenchParts('frame', 'copiedStep')
  const scale = Math.min(1, WIDTH / recipe.canvas.width)
  const layer = of === RESULT ? null : of
  const wanted = kinds.map((kind) => ({ frame, scale, layer, step: kind.name }))
  const pictures = useQuery(looksQuery(recipe, shot, wanted)).data
  const copied = kinds.find((kind) => kind.name === copiedStep?.kind)

  const picks: Pick[] = kinds.map((kind, i) => ({
    title: kind.title,
    under: kind.family,
    says: kind.help,
    picture: (
      <ListedPicture src={pictures?.[i]} className="aspect-video w-full bg-black object-contain" />
    ),
    onPick: () => {
      onDone()
      void make(`add ${kind.name}`, { does: 'add a step', layer, kind: kind.name })
    },
  }))
  if (copiedStep && copied) {
    picks.unshift({
      title: `Paste ${copied.title}`,
      under: 'copied',
      says: 'With the settings that it had where it was copied.',
      onPick: () => {
        const { kind, id: _, ...settings } = copiedStep
        onDone()
        void make(`paste ${copied.name}`, { does: 'add a step', layer, kind, settings })
      },
    })
  }
  return <Picks what="a step" picks={picks} />
}
