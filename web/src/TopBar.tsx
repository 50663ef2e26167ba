import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'
import { api } from './api/client'
import { me } from './api/queries'
import { Menu } from './ui/Menu'

const LINK = 'rounded-full px-2 py-1 text-quiet hover:text-text aria-[current=page]:text-text'

/** The top line of the screens around the bench. */
export function TopBar({ children }: { children?: ReactNode }) {
  const queries = useQueryClient()
  const person = useQuery(me)
  const signOut = useMutation({
    mutationFn: () => api.POST('/api/v1/people/sign-out'),
    onSuccess: () => {
      queries.clear()
      void queries.invalidateQueries()
    },
  })
  return (
    <header className="flex h-11 items-center gap-2 border-b border-line px-4">
      <span className="mr-3 font-semibold">Handful</span>
      <nav aria-label="Screens" className="flex gap-1">
        <NavLink to="/" end className={LINK}>
          Shots
        </NavLink>
        <NavLink to="/renders" className={LINK}>
          Renders
        </NavLink>
      </nav>
      <div className="ml-auto flex items-center gap-2">
        {children}
        <Menu
          trigger={
            <button type="button" className={LINK}>
              {person.data?.name}
            </button>
          }
          items={[{ label: 'Sign out', onPick: () => signOut.mutate() }]}
        />
      </div>
    </header>
  )
}
