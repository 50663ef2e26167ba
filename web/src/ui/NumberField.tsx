import { useEffect, useId, useRef, useState } from 'react'
import { readNumber } from './numbers'

interface Props {
  label: string
  value: number
  unit?: string
  /** What was typed to get here; the field begins with it. */
  typed?: string
  /** Whether it is what one comes to first where it opens. */
  autoFocus?: boolean
  least?: number
  most?: number
  onChange(value: number): void
}

/** A number that is taken once it can be read as one: on Enter, or on leaving the field. */
export function NumberField({
  label,
  value,
  unit,
  typed,
  autoFocus,
  least,
  most,
  onChange,
}: Props) {
  const id = useId()
  const [text, setText] = useState(typed ?? String(value))
  const [wrong, setWrong] = useState('')
  const shown = useRef(value)
  /** What was taken since something was typed: Enter takes it, and leaving the field does not take it again. */
  const taken = useRef<number>(undefined)
  useEffect(() => {
    if (shown.current !== value) setText(String(Math.round(value * 1000) / 1000))
    shown.current = value
  }, [value])

  function take() {
    const number = readNumber(text, unit)
    if (number === undefined) {
      setWrong('Write a number, as 12.5, or a sum, as 80*1.5.')
      return
    }
    if (least !== undefined && number < least) {
      setWrong(`The least is ${least}.`)
      return
    }
    if (most !== undefined && number > most) {
      setWrong(`The most is ${most}.`)
      return
    }
    setWrong('')
    if (number !== value && number !== taken.current) onChange(number)
    taken.current = number
    if (String(number) !== text.trim()) setText(String(Math.round(number * 1000) / 1000))
  }

  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-xs text-quiet">
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          data-first={autoFocus || typed !== undefined || undefined}
          value={text}
          inputMode="decimal"
          aria-invalid={wrong !== ''}
          onFocus={(event) => typed === undefined && event.target.select()}
          onChange={(event) => {
            taken.current = undefined
            setText(event.target.value)
          }}
          onBlur={take}
          onKeyDown={(event) => event.key === 'Enter' && take()}
          className="h-8 w-24 rounded-lg border border-line bg-ground px-2.5 text-sm aria-invalid:border-coral"
        />
        {unit && <span className="text-xs text-quiet">{unit}</span>}
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-xs text-coral">
          {wrong}
        </p>
      )}
    </div>
  )
}
