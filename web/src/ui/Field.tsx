import { type InputHTMLAttributes, type ReactNode, type SelectHTMLAttributes, useId } from 'react'

const BOX =
  'h-8 w-full rounded-lg border border-line bg-ground px-2.5 text-sm text-text placeholder:text-faint'

interface InputProps extends InputHTMLAttributes<HTMLInputElement> {
  label: string
  after?: ReactNode
}

export function TextField({ label, after, className = '', ...rest }: InputProps) {
  const id = useId()
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block text-xs text-quiet">
        {label}
      </label>
      <div className="flex items-center gap-2">
        <input id={id} className={BOX} {...rest} />
        {after && <span className="text-xs text-quiet">{after}</span>}
      </div>
    </div>
  )
}

interface SelectProps extends SelectHTMLAttributes<HTMLSelectElement> {
  label: string
}

export function SelectField({ label, className = '', children, ...rest }: SelectProps) {
  const id = useId()
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block text-xs text-quiet">
        {label}
      </label>
      <select id={id} className={BOX} {...rest}>
        {children}
      </select>
    </div>
  )
}
