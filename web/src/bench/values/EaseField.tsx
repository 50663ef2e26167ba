import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import type { Ease } from '../../recipe/types'
import { Segments } from '../../ui/Segments'

type Own = [number, number, number, number]

const BEGIN: Own = [0.42, 0, 0.58, 1]
const STEP = 0.05

/** How a change is spread over the time to the next key; a way of one's own has two handles. */
export function EaseField({ ease, onChange }: { ease: Ease; onChange(ease: Ease): void }) {
  const own = Array.isArray(ease)
  const pick = (way: string) => onChange(way === 'own' ? BEGIN : (way as Ease))
  return (
    <div className="grid gap-2">
      <p className="text-xs text-quiet">On the way to the next key</p>
      <Segments
        label="Easing"
        value={own ? 'own' : (ease as string)}
        options={[
          { value: 'hold', label: 'Hold' },
          { value: 'linear', label: 'Linear' },
          { value: 'smooth', label: 'Smooth' },
          { value: 'own', label: 'Own' },
        ]}
        onChange={pick}
      />
      {own && <Handles ease={ease} onChange={onChange} />}
    </div>
  )
}

function Handles({ ease, onChange }: { ease: Own; onChange(ease: Own): void }) {
  const box = useRef<SVGSVGElement>(null)
  const [x1, y1, x2, y2] = ease

  function put(which: 0 | 2, x: number, y: number) {
    const next: Own = [...ease]
    next[which] = Math.round(Math.min(1, Math.max(0, x)) * 100) / 100
    next[which + 1] = Math.round(Math.min(2, Math.max(-1, y)) * 100) / 100
    onChange(next)
  }
  function drag(event: PointerEvent<SVGCircleElement>, which: 0 | 2) {
    if (event.buttons !== 1 || !box.current) return
    event.currentTarget.setPointerCapture(event.pointerId)
    const at = box.current.getBoundingClientRect()
    const x = ((event.clientX - at.left) / at.width) * 1.2 - 0.1
    const y = 1.5 - ((event.clientY - at.top) / at.height) * 2
    put(which, x, y)
  }
  function walk(event: KeyboardEvent, which: 0 | 2) {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-STEP, 0],
      ArrowRight: [STEP, 0],
      ArrowUp: [0, STEP],
      ArrowDown: [0, -STEP],
    }
    const way = ways[event.key]
    if (!way) return
    event.preventDefault()
    event.stopPropagation()
    put(which, (ease[which] ?? 0) + way[0], (ease[which + 1] ?? 0) + way[1])
  }

  return (
    <svg
      ref={box}
      viewBox="-0.1 -0.5 1.2 2"
      className="h-40 w-24 touch-none rounded-lg bg-ground"
      aria-label="Curve of the easing"
    >
      <g transform="matrix(1 0 0 -1 0 1)" className="fill-none" strokeWidth={0.015}>
        <path d="M0 0H1M0 1H1" className="stroke-line" />
        <path d={`M0 0L${x1} ${y1}M1 1L${x2} ${y2}`} className="stroke-faint" />
        <path d={`M0 0C${x1} ${y1} ${x2} ${y2} 1 1`} className="stroke-accent" strokeWidth={0.03} />
        {([0, 2] as const).map((which) => (
          <circle
            key={which}
            role="slider"
            tabIndex={0}
            aria-label={which === 0 ? 'Leaving this key' : 'Arriving at the next key'}
            aria-valuenow={ease[which + 1]}
            aria-valuetext={`${ease[which]}, ${ease[which + 1]}`}
            cx={ease[which]}
            cy={ease[which + 1]}
            r={0.06}
            onPointerDown={(event) => drag(event, which)}
            onPointerMove={(event) => drag(event, which)}
            onKeyDown={(event) => walk(event, which)}
            className="cursor-grab fill-text"
          />
        ))}
      </g>
    </svg>
  )
}
