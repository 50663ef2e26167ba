import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Outlet } from 'react-router'
import { me } from './api/queries'
import { onBroughtBack, workAs } from './document/saving'
import { SignIn } from './people/SignIn'
import { NoticeBar, useNotice } from './ui/Notice'
import { Failed, Loading } from './ui/States'

/** What is around every screen: signing in comes first. */
export function Frame() {
  const person = useQuery(me)
  const name = person.data?.name
  useEffect(() => workAs(name ?? ''), [name])
  const tell = useNotice((store) => store.tell)
  useEffect(
    () => onBroughtBack(() => tell({ says: 'Work that was not saved yet has been brought back.' })),
    [tell],
  )
  if (person.isPending) return <Loading what="Handful" />
  if (person.isError) return <Failed error={person.error} onRetry={() => void person.refetch()} />
  return (
    <>
      {person.data.name ? <Outlet /> : <SignIn person={person.data} />}
      <NoticeBar />
    </>
  )
}
