import { type DragEvent, type MouseEvent, memo, useEffect, useRef, useState } from 'react'
import { useDocument } from '../../document/document'
import { changeLayer, moveLayer, RESULT } from '../../recipe/edits'
import { limitedBy } from '../../recipe/naming'
import type { Layer } from '../../recipe/types'
import { Menu, type MenuItem } from '../../ui/Menu'
import { make } from '../editing/make'
import { useBench } from '../editing/store'
import { BitmapCanvas, TILE } from '../looking/BitmapCanvas'
import { usePictures } from '../looking/pictures'

/** What a dragged layer is known by. */
const DRAGGED = 'text/x-layer'

interface Props {
  layer: Layer
  isChosen: boolean
}

/** A layer's own picture at the current frame, and what can be done with the layer. */
export const LayerTile = memo(({ layer, isChosen }: Props) => {
  const bitmap = usePictures((store) => store.layers[layer.id])
  const isClosed = useBench((store) => store.closedGroups.includes(layer.id))
  const tile = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    if (isChosen) tile.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [isChosen])
  const isAlone = useBench((store) => store.alone.includes(layer.id))
  const shows = useShows(layer)
  const limits = useDocument(({ recipe }) => recipe && limitedBy(recipe, layer))
  const inside = useDocument(
    ({ recipe }) => recipe?.layers.filter((other) => other.within === layer.id).length,
  )
  const [isNaming, setNaming] = useState(false)
  const set = useBench((store) => store.set)
  const isMarked = useBench((store) => store.marked.includes(layer.id))

  /** Chosen; or, with Shift or Ctrl, marked beside what is chosen. */
  function pick(event: MouseEvent) {
    const { chosen, marked } = useBench.getState()
    const isBeside = event.shiftKey || event.ctrlKey || event.metaKey
    if (!isBeside || layer.id === chosen || chosen === RESULT) return set({ chosen: layer.id })
    set({ marked: toggled(marked, layer.id) })
  }

  /** The dragged layer takes this one's place. */
  function drop(event: DragEvent) {
    event.preventDefault()
    const { recipe, change } = useDocument.getState()
    const id = event.dataTransfer.getData(DRAGGED)
    const other = recipe?.layers.find((known) => known.id === id)
    if (!recipe || !other || other.id === layer.id) return
    const places = [layer.id, id].map((each) => recipe.layers.findIndex((l) => l.id === each))
    change(`move ${other.name}`, moveLayer(recipe, id, (places[0] ?? 0) - (places[1] ?? 0)))
  }

  return (
    <div className="shrink-0">
      <button
        type="button"
        aria-pressed={isChosen || isMarked}
        draggable
        onDragStart={(event) => event.dataTransfer.setData(DRAGGED, layer.id)}
        onDragOver={(event) => event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()}
        onDrop={drop}
        ref={tile}
        onClick={pick}
        className={`relative block rounded-lg p-[3px] ${ringOf(isChosen, isMarked)}`}
      >
        <BitmapCanvas
          bitmap={bitmap}
          label={`Picture of ${layer.name}`}
          className={`${TILE} ${shows ? '' : 'opacity-30'}`}
        />
        {isAlone && (
          <span className="absolute top-2 left-2 rounded bg-accent px-1 text-xs text-on-accent">
            alone
          </span>
        )}
        {(limits || isClosed) && (
          <span
            title={limits && `Shows only where ${limits} lets it`}
            className="absolute right-2 bottom-2 max-w-28 truncate rounded bg-black/70 px-1 text-xs text-quiet"
          >
            {isClosed ? `${inside} inside` : `in ${limits}`}
          </span>
        )}
      </button>
      <div className="mt-0.5 flex w-[130px] items-baseline justify-between gap-1 pl-1">
        {isNaming ? (
          <NameField layer={layer} onDone={() => setNaming(false)} />
        ) : (
          // biome-ignore lint/a11y/noStaticElementInteractions: the menu beside it renames by keyboard
          <span
            className={`truncate text-sm ${shows ? '' : 'text-faint'}`}
            title={layer.name}
            onDoubleClick={() => setNaming(true)}
          >
            {layer.name}
          </span>
        )}
        <Menu
          trigger={
            <button
              type="button"
              aria-label={`More for ${layer.name}`}
              className="rounded px-1 text-quiet hover:text-text"
            >
              ⋯
            </button>
          }
          items={() => actionsOf(layer, () => setNaming(true))}
        />
      </div>
    </div>
  )
})

function ringOf(isChosen: boolean, isMarked: boolean): string {
  if (isChosen) return 'ring-2 ring-accent'
  return isMarked ? 'ring-2 ring-quiet' : 'hover:ring-1 hover:ring-faint'
}

/** With one among some, or without it if it was there. */
function toggled(ids: string[], id: string): string[] {
  return ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id]
}

/** Whether a layer is in the picture at the current frame. */
function useShows(layer: Layer): boolean {
  const { id, on, first, last } = layer
  const isHidden = useBench(({ alone }) => alone.length > 0 && !alone.includes(id))
  const isInTime = useBench(({ frame }) => frame >= (first ?? frame) && frame <= (last ?? frame))
  return on !== false && !isHidden && isInTime
}

/** What can be done with a layer, as things are now. */
function actionsOf(layer: Layer, onRename: () => void): MenuItem[] {
  const { recipe, change } = useDocument.getState()
  const { closedGroups, alone, chosen, marked, set } = useBench.getState()
  if (!recipe) return []
  const { id, name } = layer
  const all = recipe.layers
  const place = all.findIndex((other) => other.id === id)
  const isOn = layer.on !== false
  const isClosed = closedGroups.includes(id)
  const groups = all.filter(
    (other) => other.source.kind === 'group' && other.id !== id && other.id !== layer.within,
  )
  const put = (says: string, part: Partial<Layer>) => () =>
    change(says, changeLayer(recipe, id, part))
  const again = (does: 'duplicate' | 'link' | 'repeat', verb: string) => async () => {
    const made = await make(`${verb} ${name}`, { does, layer: id })
    if (made) set({ chosen: made })
  }
  const opening: MenuItem = {
    label: isClosed ? 'Open the group' : 'Close the group',
    onPick: () => set({ closedGroups: toggled(closedGroups, id) }),
  }
  /** This one, with what else is picked if it is picked itself. */
  const picked = [chosen, ...marked].filter((other) => all.some((known) => known.id === other))
  const together = (picked.includes(id) ? picked : [id]) as string[]
  const grouping: MenuItem = {
    label: together.length > 1 ? `Group these ${together.length}` : 'Into a group of its own',
    says: together.length > 1 ? undefined : 'Shift and a press picks others to go with it',
    onPick: async () => {
      const made = await make('group', { does: 'group', layers: together })
      if (made) set({ chosen: made })
    },
  }
  const leaving: MenuItem = {
    label: 'Out of its group',
    onPick: put(`take ${name} out of its group`, { within: null }),
  }
  return [
    ...(layer.source.kind === 'group' ? [opening] : []),
    { label: isOn ? 'Switch off' : 'Switch on', onPick: put('switch layer', { on: !isOn }) },
    {
      label: alone.includes(id) ? 'Show the others again' : 'Show alone',
      onPick: () => set({ alone: toggled(alone, id) }),
    },
    { label: 'Rename', takesFocus: true, onPick: onRename },
    { label: 'Duplicate with another seed', onPick: again('duplicate', 'duplicate') },
    { label: 'Linked copy', onPick: again('link', 'copy') },
    { label: 'Repeat', onPick: again('repeat', 'repeat') },
    {
      label: 'Move earlier',
      disabled: place === 0,
      onPick: () => change(`move ${name}`, moveLayer(recipe, id, -1)),
    },
    {
      label: 'Move later',
      disabled: place === all.length - 1,
      onPick: () => change(`move ${name}`, moveLayer(recipe, id, 1)),
    },
    grouping,
    ...groups.map((group) => ({
      label: `Into ${group.name}`,
      onPick: put(`put ${name} into ${group.name}`, { within: group.id }),
    })),
    ...(layer.within ? [leaving] : []),
    {
      label: 'Delete',
      loss: true,
      onPick: () => void make(`delete ${name}`, { does: 'remove a layer', layer: id }),
    },
  ]
}

/** The layer's name, to be typed; taken on Enter or on leaving it, and left as it is on Escape. */
function NameField({ layer, onDone }: { layer: Layer; onDone(): void }) {
  function take(name: string) {
    const { recipe, change } = useDocument.getState()
    const typed = name.trim()
    if (recipe && typed && typed !== layer.name)
      change(`rename ${layer.name}`, changeLayer(recipe, layer.id, { name: typed }))
    onDone()
  }
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: one asked to type here
      autoFocus
      aria-label={`Name of ${layer.name}`}
      defaultValue={layer.name}
      maxLength={80}
      onFocus={(event) => event.target.select()}
      onBlur={(event) => take(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take(event.currentTarget.value)
        if (event.key === 'Escape') onDone()
      }}
      className="w-full min-w-0 rounded bg-raised px-1 text-sm"
    />
  )
}
