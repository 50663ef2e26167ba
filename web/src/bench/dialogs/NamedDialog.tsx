import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Refused } from '../../api/client'
import { useDocument } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import type { Named, XY } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { bringIn } from '../editing/make'
import { remove, rename, type Shared } from '../editing/named'
import { usePlaces } from '../looking/usePlaces'

/** What has a place, which must be known before one goes: whatever follows it stays there. */
const PLACED: Shared[] = ['points', 'tracks']

/** All that has a name which settings go by: renamed it is renamed wherever it stands. */
export function NamedDialog({ onClose }: { onClose(): void }) {
  const recipe = useDocument((store) => store.recipe)
  const catalogue = useQuery(catalogueQuery).data
  const places = usePlaces()
  if (!recipe || !catalogue) return null
  const at: Partial<Record<Shared, Record<string, XY>>> = {
    points: places?.points,
    tracks: places?.tracks,
  }
  const shared = [...PLACED, ...catalogue.named.map((kind) => kind.listed as Shared)]
  const there = shared.filter((what) => recipe[what]?.length)
  return (
    <Dialog
      title="What has a name"
      says="A new name goes to all that follow it. What follows something that is removed stays where it is on this frame."
      open
      onClose={onClose}
    >
      {there.length === 0 && <p className="mb-4 text-sm text-quiet">This shot has none yet.</p>}
      {there.map((what) => (
        <section key={what} aria-label={titled(what)} className="mb-4">
          <h3 className="mb-1 text-xs text-quiet">{titled(what)}</h3>
          <ul className="grid gap-1.5">
            {recipe[what]?.map((each) => (
              <Line key={each.name} what={what} each={each} place={at[what]?.[each.name]} />
            ))}
          </ul>
        </section>
      ))}
      <FromFile />
    </Dialog>
  )
}

const titled = (what: string) => what.charAt(0).toUpperCase() + what.slice(1)

/** Brings in what a file holds, and tells what that is called, or what is wrong with it and where. */
function FromFile() {
  const input = useRef<HTMLInputElement>(null)
  const [told, setTold] = useState<string[]>([])
  async function take(file: File) {
    setTold([`Reading ${file.name} …`])
    const made = await bringIn(file.name, await file.text(), (error) => setTold(wrong(error)))
    if (made) setTold([`${made.join(', ')}: brought in from ${file.name}.`])
  }
  return (
    <section aria-label="From a file" className="grid gap-2">
      <p className="text-xs text-quiet">
        A track or a solved camera in CSV, or the paths of an SVG drawing.
      </p>
      <input
        ref={input}
        type="file"
        accept=".csv,.svg"
        aria-label="File to bring in"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) void take(file)
        }}
      />
      <Button className="w-fit" onClick={() => input.current?.click()}>
        Bring in a file …
      </Button>
      <ul aria-live="polite" className="grid gap-0.5 text-sm">
        {told.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  )
}

const MOST_TOLD = 6
const UNANSWERED = 'The server does not answer. Bring the file in again once it does.'

function wrong(error: unknown): string[] {
  const says = error instanceof Error ? error.message : String(error)
  if (error instanceof Refused && error.status === 0) return [UNANSWERED]
  if (!(error instanceof Refused) || error.problems.length === 0) return [says]
  const lines = error.problems.map(({ path, says }) => (path ? `${path}: ${says}` : says))
  const more = lines.length - MOST_TOLD
  return more > 0 ? [...lines.slice(0, MOST_TOLD), `And ${more} more.`] : lines
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
        disabled={!place && PLACED.includes(what)}
        onClick={() => remove(what, name, place)}
      >
        Remove
      </Button>
    </li>
  )
}
