import type { DragEvent } from 'react'
import { useDocument } from '../recipe/document'
import { changeLayer, duplicateLayer, linkLayer, moveLayer, removeLayer } from '../recipe/edits'
import type { Layer } from '../recipe/types'
import { Menu } from '../ui/Menu'
import { BitmapCanvas, TILE } from './BitmapCanvas'
import { usePictures } from './pictures'
import { useBench } from './store'

/** What a dragged layer is known by. */
const DRAGGED = 'text/x-layer'

interface Props {
  layer: Layer
  isChosen: boolean
}

/** A layer's own picture at the current frame, and what can be done with the layer. */
export function LayerTile({ layer, isChosen }: Props) {
  const { recipe, change } = useDocument()
  const bitmap = usePictures((store) => store.layers[layer.id])
  const frame = useBench((store) => store.frame)
  const { closedGroups, set: setBench } = useBench()
  if (!recipe) return null
  const isOn = layer.on !== false
  const isClosed = closedGroups.includes(layer.id)
  const inside = recipe.layers.filter((other) => other.within === layer.id).length
  const isLimited = (layer.limits?.length ?? 0) > 0
  const isHidden = !layer.solo && recipe.layers.some((other) => other.solo)
  const shows =
    isOn && !isHidden && frame >= (layer.first ?? frame) && frame <= (layer.last ?? frame)

  const place = recipe.layers.indexOf(layer)
  const groups = recipe.layers.filter(
    (other) => other.source.kind === 'group' && other !== layer && other.id !== layer.within,
  )

  function move(by: number) {
    if (recipe) change(`move ${layer.name}`, moveLayer(recipe, layer.id, by))
  }
  function drop(event: DragEvent) {
    event.preventDefault()
    const id = event.dataTransfer.getData(DRAGGED)
    const from = recipe?.layers.findIndex((other) => other.id === id) ?? -1
    const other = recipe?.layers[from]
    if (recipe && other && other !== layer) {
      change(`move ${other.name}`, moveLayer(recipe, id, place - from))
    }
  }
  function again(make: typeof duplicateLayer, verb: string) {
    if (!recipe) return
    const [next, id] = make(recipe, layer.id)
    change(`${verb} ${layer.name}`, next)
    setBench({ chosen: id })
  }

  return (
    <div className="shrink-0">
      <button
        type="button"
        aria-pressed={isChosen}
        draggable
        onDragStart={(event) => event.dataTransfer.setData(DRAGGED, layer.id)}
        onDragOver={(event) => event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()}
        onDrop={drop}
        onClick={() => setBench({ chosen: layer.id })}
        className={`relative block rounded-lg p-[3px] ${isChosen ? 'ring-2 ring-accent' : 'hover:ring-1 hover:ring-faint'}`}
      >
        <BitmapCanvas
          bitmap={bitmap}
          label={`Picture of ${layer.name}`}
          className={`${TILE} ${shows ? '' : 'opacity-30'}`}
        />
        {(isLimited || isClosed) && (
          <span className="absolute right-2 bottom-2 rounded bg-black/70 px-1 text-xs text-quiet">
            {isClosed ? `${inside} inside` : 'limited'}
          </span>
        )}
      </button>
      <div className="mt-0.5 flex w-[130px] items-baseline justify-between gap-1 pl-1">
        <span className={`truncate text-sm ${shows ? '' : 'text-faint'}`} title={layer.name}>
          {layer.name}
        </span>
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
          items={[
            ...(layer.source.kind === 'group'
              ? [
                  {
                    label: isClosed ? 'Open the group' : 'Close the group',
                    onPick: () =>
                      setBench({
                        closedGroups: isClosed
                          ? closedGroups.filter((id) => id !== layer.id)
                          : [...closedGroups, layer.id],
                      }),
                  },
                ]
              : []),
            {
              label: isOn ? 'Switch off' : 'Switch on',
              onPick: () => change('switch layer', changeLayer(recipe, layer.id, { on: !isOn })),
            },
            {
              label: layer.solo ? 'Show the others again' : 'Show alone',
              onPick: () =>
                change('show alone', changeLayer(recipe, layer.id, { solo: !layer.solo })),
            },
            {
              label: 'Duplicate with another seed',
              onPick: () => again(duplicateLayer, 'duplicate'),
            },
            { label: 'Linked copy', onPick: () => again(linkLayer, 'copy') },
            { label: 'Move earlier', disabled: place === 0, onPick: () => move(-1) },
            {
              label: 'Move later',
              disabled: place === recipe.layers.length - 1,
              onPick: () => move(1),
            },
            ...groups.map((group) => ({
              label: `Into ${group.name}`,
              onPick: () =>
                change(
                  `put ${layer.name} into ${group.name}`,
                  changeLayer(recipe, layer.id, { within: group.id }),
                ),
            })),
            ...(layer.within
              ? [
                  {
                    label: 'Out of its group',
                    onPick: () =>
                      change(
                        `take ${layer.name} out of its group`,
                        changeLayer(recipe, layer.id, { within: null }),
                      ),
                  },
                ]
              : []),
            {
              label: 'Delete',
              loss: true,
              onPick: () => change(`delete ${layer.name}`, removeLayer(recipe, layer.id)),
            },
          ]}
        />
      </div>
    </div>
  )
}
