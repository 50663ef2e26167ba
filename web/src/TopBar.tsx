import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'
import { api, got } from './api/client'
import { me } from './api/queries'
import { GettingReady } from './ui/GettingReady'
import { Menu } from './ui/Menu'

const LINK = 'rounded-full px-2 py-1 text-quiet hover:text-text aria-[current=page]:text-text'

/** The top line of the screens around the bench. */
export function TopBar({ children }: { children?: ReactNode }) {
  const queries = useQueryClient()
  const person = useQuery(me)
  const signOut = useMutation({
    mutationFn: () => got(api.POST('/api/v1/people/sign-out')),
    onSuccess: (nobody) => {
      queries.setQueryData(me.queryKey, nobody)
      queries.removeQueries({ predicate: ({ queryKey }) => queryKey !== me.queryKey })
    },
  })
  return (
    <header className="flex min-h-11 shrink-0 flex-wrap items-center gap-2 border-b border-line px-4">
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
        <GettingReady />
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
