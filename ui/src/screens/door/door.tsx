import { useState } from 'react'
import { client } from '../../api/queries'
import { EbbeError, post } from '../../api/client'
import type { Session } from '../../api/desk'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'

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
      setWrong(e instanceof EbbeError ? e : new EbbeError('Something went wrong. Try again.', 0, ''))
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
          ebbe
          <svg width="76" height="14" viewBox="0 0 38 7" className="mx-auto mt-1" aria-hidden>
            <path
              d="M1 4c5 0 5-3 9-3s4 4 9 4 5-4 9-4 4 3 9 3"
              stroke="#7CC4C3"
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
            void enter(first ? '/setup' : '/sign-in', { name, address, password, zone })
          }}
        >
          {session.demo ? (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">The Skagvik Tide Museum</h2>
              <p className="mt-1 mb-5 text-ink-500">
                You are Solvei Arnkvist, who prepares the exhibition “The Machine That Knew the Sea”. All people and all
                mail here are made up.
              </p>
              <Button className="w-full" disabled={busy} autoFocus onClick={() => void enter('/demo/sign-in', {})}>
                Open the museum’s inbox
              </Button>
            </>
          ) : (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">{first ? 'Your inbox, empty once a day' : 'Sign in'}</h2>
              {first && <p className="mt-1 text-ink-500">Ebbe runs on this machine and keeps everything here.</p>}
              <div className="mt-4 grid gap-3">
                {first && (
                  <Field
                    id="name"
                    label="Your name"
                    value={name}
                    autoFocus
                    autoComplete="name"
                    wrong={at('name')}
                    onChange={(e) => setName(e.target.value)}
                  />
                )}
                <Field
                  id="address"
                  label="Your mail address"
                  type="email"
                  value={address}
                  autoFocus={!first}
                  autoComplete="username"
                  wrong={at('address')}
                  onChange={(e) => setAddress(e.target.value)}
                />
                <Field
                  id="password"
                  label={first ? 'A password of at least 10 characters' : 'Password'}
                  type="password"
                  value={password}
                  autoComplete={first ? 'new-password' : 'current-password'}
                  wrong={at('password')}
                  onChange={(e) => setPassword(e.target.value)}
                />
              </div>
              <Button type="submit" className="mt-5 w-full" disabled={busy}>
                {first ? 'Begin' : 'Sign in'}
              </Button>
            </>
          )}
          {wrong && !wrong.field && (
            <p role="alert" className="mt-3 text-coral-600">
              {wrong.message}
            </p>
          )}
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
        stroke="#7CC4C3"
        strokeOpacity={0.42 - i * 0.07}
        strokeWidth={3}
      />
    ))}
  </svg>
)
