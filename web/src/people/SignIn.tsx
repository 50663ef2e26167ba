import { useMutation, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { api, got, type Schemas } from '../api/client'
import { me } from '../api/queries'
import { Button } from '../ui/Button'
import { TextField } from '../ui/Field'

export function SignIn({ person }: { person: Schemas['Person'] }) {
  const queries = useQueryClient()
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const onSuccess = (signedIn: Schemas['Person']) => queries.setQueryData(me.queryKey, signedIn)
  const signIn = useMutation({
    mutationFn: () => got(api.POST('/api/v1/people/sign-in', { body: { name, password } })),
    onSuccess,
  })
  const continueAsDemo = useMutation({
    mutationFn: () => got(api.POST('/api/v1/people/continue-as-demo-artist')),
    onSuccess,
  })

  function submit(event: FormEvent) {
    event.preventDefault()
    signIn.mutate()
  }

  return (
    <main className="grid h-full place-items-center">
      <div className="w-80">
        <h1 className="text-2xl font-semibold">Handful</h1>
        <p className="mt-1 mb-6 text-quiet">Effect elements, made by hand and eye.</p>
        {person.demo && (
          <>
            <Button
              look="main"
              className="h-9 w-full justify-center"
              disabled={continueAsDemo.isPending}
              onClick={() => continueAsDemo.mutate()}
            >
              Continue as the demo artist
            </Button>
            <p className="my-5 text-center text-xs text-faint">or sign in</p>
          </>
        )}
        <form onSubmit={submit} className="grid gap-3">
          <TextField
            label="Name"
            autoComplete="username"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
          {signIn.isError && (
            <p role="alert" className="text-sm text-coral">
              {signIn.error.message}
            </p>
          )}
          <Button
            type="submit"
            className="h-9 justify-center"
            disabled={!name || !password || signIn.isPending}
          >
            Sign in
          </Button>
        </form>
      </div>
    </main>
  )
}
