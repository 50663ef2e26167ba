import { useMutation } from '@tanstack/react-query'
import { api, got } from '../../api/client'
import { type Hsv, hexOf, hsvOf } from '../../recipe/colour'
import { TextField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { Slider } from '../../ui/Slider'

interface Props {
  name: string
  value: string
  onChange(value: string, gesture?: string): void
  onSettle(): void
}

const SLIDERS: { part: keyof Hsv; label: string; most: number }[] = [
  { part: 'hue', label: 'Hue', most: 360 },
  { part: 'saturation', label: 'Saturation', most: 100 },
  { part: 'value', label: 'Value', most: 100 },
]

/** A colour by eye, as sRGB, by hue, saturation and value, or as light of a temperature. */
export function ColourFields({ name, value, onChange, onSettle }: Props) {
  const hsv = hsvOf(value)
  const warm = useMutation({
    mutationFn: (kelvin: number) =>
      got(api.GET('/api/v1/colours/{kelvin}', { params: { path: { kelvin } } })),
    onSuccess: ({ srgb }) => onChange(srgb),
  })
  return (
    <div className="grid gap-3">
      <div className="flex items-end gap-3">
        <input
          type="color"
          aria-label="Pick a colour"
          value={value}
          onChange={(event) => onChange(event.target.value, `colour ${name}`)}
          onBlur={onSettle}
          className="h-8 w-14 rounded-lg border border-line bg-ground"
        />
        <TextField
          label="sRGB"
          defaultValue={value}
          key={value}
          onBlur={(event) => {
            const text = event.target.value.trim()
            if (/^#[0-9a-f]{6}$/i.test(text)) onChange(text.toLowerCase())
            else event.target.value = value
          }}
        />
        <NumberField
          label="Light of"
          value={6504}
          unit="K"
          onChange={(kelvin) => warm.mutate(Math.min(25000, Math.max(1667, kelvin)))}
        />
      </div>
      {SLIDERS.map(({ part, label, most }) => (
        <div key={part} className="grid grid-cols-[76px_1fr_32px] items-center gap-2 text-xs">
          <span className="text-quiet">{label}</span>
          <Slider
            label={label}
            value={hsv[part]}
            least={0}
            most={most}
            step={1}
            onChange={(next) => onChange(hexOf({ ...hsv, [part]: next }), `${part} of ${name}`)}
            onSettle={onSettle}
          />
          <span className="text-right">{hsv[part]}</span>
        </div>
      ))}
      {warm.isError && <p className="text-xs text-coral">{warm.error.message}</p>}
    </div>
  )
}
