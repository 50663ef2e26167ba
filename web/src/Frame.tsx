import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Outlet } from 'react-router'
import { me } from './api/queries'
import { onBroughtBack, onBroughtTogether, type Together, workAs } from './document/saving'
import { useHearing } from './hearing'
import { SignIn } from './people/SignIn'
import { whereIs } from './recipe/problems'
import { NoticeBar, useNotice } from './ui/Notice'
import { Failed, Loading } from './ui/States'

/** What is around every screen: signing in comes first. */
export function Frame() {
  const person = useQuery(me)
  const name = person.data?.name
  useEffect(() => workAs(name ?? ''), [name])
  useHearing(Boolean(name))
  const tell = useNotice((store) => store.tell)
  useEffect(
    () => onBroughtBack(() => tell({ says: 'Work that was not saved yet has been brought back.' })),
    [tell],
  )
  useEffect(() => onBroughtTogether((made) => tell({ says: togetherText(made) })), [tell])
  if (person.isPending) return <Loading what="Handful" />
  if (person.isError) return <Failed error={person.error} onRetry={() => void person.refetch()} />
  return (
    <>
      {person.data.name ? <Outlet /> : <SignIn person={person.data} />}
      <NoticeBar />
    </>
  )
}

/** What became of what two have changed at once. */
function togetherText({ recipe, both, kept }: Together): string {
  const named = (paths: string[]) =>
    [...new Set(paths.map((path) => whereIs(recipe, path)))].join('; ')
  const parts = ['What was changed elsewhere is here now.']
  if (both.length > 0) parts.push(`Set in both places, and yours holds: ${named(both)}.`)
  if (kept.length > 0)
    parts.push(`Kept, as it was changed in one and taken away in the other: ${named(kept)}.`)
  return parts.join(' ')
}
