import { useEffect, useState } from 'react'

interface Props {
  value: number
  onChange(value: number): void
}

/** The current frame, to be read and to be typed into. */
export function FrameNumber({ value, onChange }: Props) {
  const [text, setText] = useState(String(value))
  useEffect(() => setText(String(value)), [value])

  function take() {
    const number = Number.parseInt(text, 10)
    if (Number.isNaN(number)) setText(String(value))
    else onChange(number)
  }

  return (
    <input
      id="frame-number"
      aria-label="Go to frame"
      inputMode="numeric"
      value={text}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur()
      }}
      className="w-14 rounded px-1 font-semibold hover:bg-raised"
    />
  )
}
