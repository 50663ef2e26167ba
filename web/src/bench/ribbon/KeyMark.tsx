import { Popover } from 'radix-ui'
import { type KeyboardEvent, type PointerEvent, useState } from 'react'
import { movedKeys, stretched, withEase, withKey, withoutKeys } from '../../recipe/keys'
import { isPoint, type Key } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { TextField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { Panel } from '../../ui/Panel'
import { EaseField } from '../values/EaseField'
import { PairFields } from '../values/PairFields'

interface Props {
  name: string
  at: Key
  /** Where it stands in its lane, in percent. */
  left: number
  keys: Key[]
  onPress(event: PointerEvent): void
  onKeys(says: string, keys: Key[], gesture?: string): void
  onGo(): void
}

/** A key in its lane: dragged or walked with the arrow keys in time, opened for all else. */
export function KeyMark({ name, at, left, keys, onPress, onKeys, onGo }: Props) {
  const [open, setOpen] = useState(false)
  const { frame, value } = at
  const span = (keys.at(-1)?.frame ?? frame) - (keys[0]?.frame ?? frame)

  function press(event: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (by && !event.altKey) {
      event.preventDefault()
      onKeys('move a key', movedKeys(keys, [frame], event.shiftKey ? 10 * by : by))
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault()
      onKeys('take out a key', withoutKeys(keys, [frame]))
    }
  }

  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        data-arrows
        aria-label={`Key of ${name} at frame ${frame}: ${String(value)}`}
        onPointerDown={onPress}
        onKeyDown={press}
        onDoubleClick={onGo}
        className="absolute top-1/2 z-10 size-4 -translate-x-1/2 -translate-y-1/2 touch-none"
        style={{ left: `${left}%` }}
      >
        <span
          data-shows-colour
          className="mx-auto block size-2.5 rounded-full bg-accent ring-2 ring-ground"
        />
      </Popover.Trigger>
      <Panel label={`Key of ${name} at frame ${frame}`} side="top" width="w-72">
        <div className="flex items-start gap-3">
          <NumberField
            label="Frame"
            autoFocus
            value={frame}
            onChange={(next) =>
              onKeys('move a key', movedKeys(keys, [frame], Math.round(next) - frame))
            }
          />
          {typeof value === 'number' && (
            <NumberField
              label="Value"
              value={value}
              onChange={(next) => onKeys('change a key', withKey(keys, frame, next))}
            />
          )}
          {typeof value === 'string' && (
            <TextField
              label="sRGB"
              defaultValue={value}
              onBlur={(event) =>
                /^#[0-9a-f]{6}$/i.test(event.target.value.trim()) &&
                onKeys('change a key', withKey(keys, frame, event.target.value.trim()))
              }
            />
          )}
        </div>
        {isPoint(value) && (
          <PairFields
            value={value}
            unit="px"
            onChange={(next) => onKeys('change a key', withKey(keys, frame, next))}
          />
        )}
        {frame !== keys.at(-1)?.frame && (
          <EaseField
            ease={at.ease ?? 'smooth'}
            onChange={(ease) => onKeys('ease a key', withEase(keys, frame, ease))}
          />
        )}
        {span > 0 && (
          <NumberField
            label="All keys last"
            value={span}
            unit="frames"
            onChange={(next) =>
              onKeys('stretch the keys', stretched(keys, Math.max(1, Math.round(next))))
            }
          />
        )}
        <div className="flex justify-between">
          <Button look="quiet" onClick={onGo}>
            Go there
          </Button>
          <Button
            look="quiet"
            disabled={keys.length < 2}
            onClick={() => {
              setOpen(false)
              onKeys('take out a key', withoutKeys(keys, [frame]))
            }}
          >
            Take it out
          </Button>
        </div>
      </Panel>
    </Popover.Root>
  )
}
