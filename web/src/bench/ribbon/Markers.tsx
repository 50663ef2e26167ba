import { Popover } from 'radix-ui'
import { useDocument, useDocumentParts } from '../../document/document'
import type { Shown } from '../../recipe/frames'
import { markedAt, withMarker, withoutMarker } from '../../recipe/markers'
import type { Marker } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { Panel } from '../../ui/Panel'
import { useBench } from '../editing/store'

/** Sets a marker on the current frame, or takes away the one that is there. */
export function MarkButton() {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  const frame = useBench((store) => store.frame)
  if (!recipe) return null
  const known = markedAt(recipe, frame)
  return (
    <button
      type="button"
      aria-pressed={known !== undefined}
      title={known ? 'Take away the marker on this frame' : 'Mark this frame'}
      onClick={() =>
        known
          ? change('take away a marker', withoutMarker(recipe, frame))
          : change('mark a frame', withMarker(recipe, { frame, says: '' }))
      }
      className={`h-6 rounded-full px-2 hover:bg-raised ${known ? 'text-accent' : ''}`}
    >
      Mark
    </button>
  )
}

/** The marked frames in the ribbon; each opens to be gone to, named, moved or taken away. */
export function Markers({ shown }: { shown: Shown }) {
  const recipe = useDocument((store) => store.recipe)
  return recipe?.markers
    ?.filter(({ frame }) => frame >= shown.first && frame <= shown.last)
    .map((marker, i) => (
      // biome-ignore lint/suspicious/noArrayIndexKey: a marker stays open while its frame changes
      <MarkerFlag key={i} marker={marker} left={shown.percent(marker.frame + 0.5)} />
    ))
}

function MarkerFlag({ marker, left }: { marker: Marker; left: number }) {
  const { recipe, change } = useDocumentParts('recipe', 'change')
  const set = useBench((store) => store.set)
  if (!recipe) return null
  const { frame, says = '' } = marker
  const put = (name: string, next: Marker) =>
    change(name, withMarker(withoutMarker(recipe, frame), next))
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`Marker at frame ${frame}${says && `: ${says}`}`}
        title={says || `Frame ${frame}`}
        onDoubleClick={() => set({ frame, playing: false })}
        className="absolute top-0 z-10 flex h-[18px] max-w-32 -translate-x-[4px] items-center gap-1 text-xs text-quiet hover:text-text"
        style={{ left: `${left}%` }}
      >
        <span className="size-2 shrink-0 rotate-45 bg-current" />
        <span className="truncate bg-ground">{says}</span>
      </Popover.Trigger>
      <Panel label={`Marker at frame ${frame}`} side="top" width="w-64">
        <TextField
          label="What happens here"
          defaultValue={says}
          maxLength={80}
          onBlur={(event) =>
            event.target.value !== says && put('name a marker', { frame, says: event.target.value })
          }
          onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        />
        <NumberField
          label="Frame"
          value={frame}
          onChange={(next) => put('move a marker', { says, frame: Math.max(0, Math.round(next)) })}
        />
        <div className="flex justify-between">
          <Button look="quiet" onClick={() => set({ frame, playing: false })}>
            Go there
          </Button>
          <Button
            look="quiet"
            onClick={() => change('take away a marker', withoutMarker(recipe, frame))}
          >
            Take it away
          </Button>
        </div>
      </Panel>
    </Popover.Root>
  )
}
