import { useEffect, useId, useState } from 'react'
import { readNumber } from '../recipe/wording'

interface Props {
  label: string
  value: number
  unit?: string
  autoFocus?: boolean
  onChange(value: number): void
}

/** A number that is taken once it can be read as one: on Enter, or on leaving the field. */
export function NumberField({ label, value, unit, autoFocus, onChange }: Props) {
  const id = useId()
  const [text, setText] = useState(String(value))
  const [wrong, setWrong] = useState(false)
  useEffect(() => setText(String(Math.round(value * 1000) / 1000)), [value])

  function take() {
    const number = readNumber(text)
    setWrong(number === undefined)
    if (number !== undefined && number !== value) onChange(number)
  }

  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-xs text-quiet">
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input
          id={id}
          // biome-ignore lint/a11y/noAutofocus: the editor was just opened to change this number
          autoFocus={autoFocus}
          value={text}
          inputMode="decimal"
          aria-invalid={wrong}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setText(event.target.value)}
          onBlur={take}
          onKeyDown={(event) => event.key === 'Enter' && take()}
          className="h-8 w-24 rounded-lg border border-line bg-ground px-2.5 text-sm aria-invalid:border-coral"
        />
        {unit && <span className="text-xs text-quiet">{unit}</span>}
      </div>
      {wrong && <p className="mt-1 text-xs text-coral">Write a number, as 12.5.</p>}
    </div>
  )
}
