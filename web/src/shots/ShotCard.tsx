import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { Button } from '../ui/Button'
import { Menu } from '../ui/Menu'
import { byFrame, MovingPicture } from '../ui/MovingPicture'

interface Props {
  shot: Schemas['ShotLine']
  onDuplicate(): void
  onDelete(): void
}

/** A shot in the list. Moving the pointer across its picture moves it in time. */
export function ShotCard({ shot, onDuplicate, onDelete }: Props) {
  const address = `/api/v1/preview/thumbnails/${shot.id}.jpg?revision=${shot.revision}`
  return (
    <li>
      <Link
        to={`/shots/${shot.id}`}
        aria-label={`Open ${shot.name}`}
        tabIndex={-1}
        className="block overflow-hidden rounded-xl bg-black"
      >
        <MovingPicture {...byFrame(address, shot.first, shot.last)} />
      </Link>
      <div className="mt-1.5 flex items-start justify-between gap-2">
        <div className="min-w-0">
          <p className="truncate font-semibold">
            <Link to={`/shots/${shot.id}`} className="hover:underline">
              {shot.name}
            </Link>
          </p>
          <p className="text-xs text-quiet">
            {shot.width} × {shot.height} · {shot.rate} fps · {shot.last - shot.first + 1} frames
          </p>
        </div>
        <Menu
          trigger={
            <Button look="quiet" aria-label={`More for ${shot.name}`} className="px-2">
              ⋯
            </Button>
          }
          items={[
            { label: 'Duplicate', onPick: onDuplicate },
            { label: 'Delete', loss: true, onPick: onDelete },
          ]}
        />
      </div>
    </li>
  )
}
