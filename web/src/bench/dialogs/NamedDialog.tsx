import { useDocument } from '../../document/document'
import type { Named, XY } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { remove, rename, type Shared } from '../editing/named'
import { usePlaces } from '../looking/usePlaces'

const TITLES: Record<Shared, string> = {
  points: 'Points',
  tracks: 'Tracks',
  paths: 'Paths',
  sways: 'Sways',
}

/** What follows these stays at a place, which must be known before one goes. */
const STAYS: Shared[] = ['points', 'tracks']

/** All that has a name which settings go by: renamed it is renamed wherever it stands. */
export function NamedDialog({ onClose }: { onClose(): void }) {
  const recipe = useDocument((store) => store.recipe)
  const places = usePlaces()
  if (!recipe) return null
  const at: Partial<Record<Shared, Record<string, XY>>> = {
    points: places?.points,
    tracks: places?.tracks,
  }
  const shared = Object.keys(TITLES) as Shared[]
  const there = shared.filter((what) => recipe[what]?.length)
  return (
    <Dialog
      title="Points, tracks, paths and sways"
      says="A new name goes to all that follow it. What follows something that is removed stays where it is on this frame."
      open
      onClose={onClose}
    >
      {there.length === 0 && <p className="text-sm text-quiet">This shot has none yet.</p>}
      {there.map((what) => (
        <section key={what} aria-label={TITLES[what]} className="mb-4">
          <h3 className="mb-1 text-xs text-quiet">{TITLES[what]}</h3>
          <ul className="grid gap-1.5">
            {recipe[what]?.map((each) => (
              <Line key={each.name} what={what} each={each} place={at[what]?.[each.name]} />
            ))}
          </ul>
        </section>
      ))}
    </Dialog>
  )
}

function Line({ what, each, place }: { what: Shared; each: Named; place?: XY }) {
  const { name } = each
  function take(typed: string) {
    const to = typed.trim()
    if (to && to !== name) rename(what, name, to)
  }
  return (
    <li className="flex items-center gap-2">
      <input
        aria-label={`Name of ${name}`}
        defaultValue={name}
        maxLength={80}
        onBlur={(event) => take(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        className="h-8 min-w-0 grow rounded-lg border border-line bg-ground px-2.5 text-sm"
      />
      <Button
        look="quiet"
        aria-label={`Remove ${name}`}
        disabled={!place && STAYS.includes(what)}
        onClick={() => remove(what, name, place)}
      >
        Remove
      </Button>
    </li>
  )
}
