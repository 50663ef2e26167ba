import type { ButtonHTMLAttributes } from 'react'

const LOOKS = {
  plain: 'border border-line text-text hover:bg-raised',
  main: 'bg-accent text-on-accent font-semibold hover:brightness-110',
  quiet: 'text-quiet hover:text-text hover:bg-raised',
  loss: 'border border-line text-coral hover:bg-raised',
}

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: keyof typeof LOOKS
}

export function Button({ look = 'plain', className = '', type = 'button', ...rest }: Props) {
  return (
    <button
      type={type}
      className={`inline-flex h-7 items-center gap-1.5 rounded-full px-3 text-sm whitespace-nowrap disabled:opacity-45 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  )
}
