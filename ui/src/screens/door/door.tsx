import { useState } from 'react'
import { EbbeError, post } from '../../api/client'
import type { Session } from '../../api/desk'
import { client } from '../../api/queries'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { Notice } from '../../kit/notice'
import { sentences } from './sentences'

/** The way in: the first set-up, signing in, or one click for the demo. */
export function Door({ session }: { session: Session }) {
  const first = session.state === 'setup'
  const [name, setName] = useState('')
  const [address, setAddress] = useState('')
  const [password, setPassword] = useState('')
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const [busy, setBusy] = useState(false)
  const enter = async (path: string, body: unknown) => {
    setBusy(true)
    try {
      await post(path, body)
      await client.resetQueries({ queryKey: ['session'] })
    } catch (e) {
      setWrong(e instanceof EbbeError ? e : new EbbeError(sentences.somethingWentWrongTry, 0, ''))
    } finally {
      setBusy(false)
    }
  }
  const at = (field: string) => (wrong?.field === field ? wrong.message : undefined)
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
  return (
    <main className="relative grid min-h-dvh content-center overflow-y-auto bg-frame px-4 py-10">
      <Tide />
      <div className="relative mx-auto w-full max-w-[400px]">
        <h1 className="mb-6 text-center text-[40px] leading-none font-bold tracking-[-.03em] text-white">
          {sentences.ebbe}
          <svg width="76" height="14" viewBox="0 0 38 7" className="mx-auto mt-1" aria-hidden>
            <path
              d="M1 4c5 0 5-3 9-3s4 4 9 4 5-4 9-4 4 3 9 3"
              stroke="var(--sea)"
              strokeWidth="2"
              fill="none"
              strokeLinecap="round"
            />
          </svg>
        </h1>
        <form
          className="rounded-[10px] bg-sand-0 px-6 py-6"
          onSubmit={(e) => {
            e.preventDefault()
            void enter(first ? '/setup' : '/sign-in', {
              name,
              address,
              password,
              zone,
              languages: navigator.languages,
            })
          }}
        >
          {session.demo ? (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">{sentences.theSkagvikTideMuseum}</h2>
              <p className="mt-1 mb-5 text-ink-500">{sentences.youAreSolveiArnkvist}</p>
              <Button className="w-full" disabled={busy} autoFocus onClick={() => void enter('/demo/sign-in', {})}>
                {sentences.openTheMuseumsInbox}
              </Button>
            </>
          ) : (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">
                {first ? sentences.yourInboxEmptyOnce : sentences.signIn}
              </h2>
              {first && <p className="mt-1 text-ink-500">{sentences.ebbeRunsOnThis}</p>}
              <div className="mt-4 grid gap-3">
                {first && (
                  <Field
                    id="name"
                    label={sentences.yourName}
                    value={name}
                    autoFocus
                    autoComplete="name"
                    wrong={at('name')}
                    onChange={(e) => setName(e.target.value)}
                  />
                )}
                <Field
                  id="address"
                  label={sentences.yourMailAddress}
                  type="email"
                  value={address}
                  autoFocus={!first}
                  autoComplete="username"
                  wrong={at('address')}
                  onChange={(e) => setAddress(e.target.value)}
                />
                <Field
                  id="password"
                  label={first ? sentences.aPasswordOfAt : sentences.password}
                  type="password"
                  value={password}
                  autoComplete={first ? 'new-password' : 'current-password'}
                  wrong={at('password')}
                  onChange={(e) => setPassword(e.target.value)}
                />
              </div>
              <Button type="submit" className="mt-5 w-full" disabled={busy}>
                {first ? sentences.begin : sentences.signIn}
              </Button>
            </>
          )}
          {wrong && !wrong.field && <Notice className="mt-3">{wrong.message}</Notice>}
        </form>
      </div>
    </main>
  )
}

const Tide = () => (
  <svg
    viewBox="0 0 1200 400"
    preserveAspectRatio="xMidYMax slice"
    className="pointer-events-none absolute inset-x-0 bottom-0 h-[55%] w-full"
    aria-hidden
    fill="none"
    strokeLinecap="round"
  >
    {[0, 1, 2, 3, 4].map((i) => (
      <path
        key={i}
        d={`M-40 ${130 + i * 58}c100-${34 - i * 4} 210-${34 - i * 4} 320 0s220 ${34 - i * 4} 320 0 210-${34 - i * 4} 320 0 220 ${34 - i * 4} 360 0`}
        stroke="var(--sea)"
        strokeOpacity={0.42 - i * 0.07}
        strokeWidth={3}
      />
    ))}
  </svg>
)
