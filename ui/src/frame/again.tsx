import { useState } from 'react'
import { EbbeError, post, told } from '../api/client'
import type { PasskeyOffer } from '../api/gen/identity'
import { knowsPasskeys, showPasskey } from '../api/passkey'
import { signInAgain, useSession } from '../api/session'
import { Button } from '../kit/button'
import { Field } from '../kit/field'
import { Notice } from '../kit/notice'
import { firstOf } from './demo'
import { sentences } from './sentences'

/** Signing in again above the screen that is open, when the session has ended: nothing on it goes. */
export function SignInAgain() {
  const session = useSession().data
  const [password, setPassword] = useState('')
  const [code, setCode] = useState('')
  const [asked, setAsked] = useState('') // for a code besides the password, or a passkey
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  if (!session) return null
  const enter = async (passkey = false) => {
    setBusy(true)
    setWrong('')
    try {
      const said = { address: session.address, password }
      const given = passkey && (await showPasskey(await post<PasskeyOffer>('/sign-in/passkey', said)))
      if (session.demo) await signInAgain('/demo/sign-in', { as: firstOf(session.name) })
      else await signInAgain('/sign-in', given ? { ...said, ...given } : { ...said, code })
      setPassword('')
      setCode('')
      setAsked('')
    } catch (e) {
      if (e instanceof EbbeError && (e.type === 'code' || e.type === 'code-or-passkey'))
        setAsked((a) => a || (e as EbbeError).type)
      setWrong(told(e))
    } finally {
      setBusy(false)
    }
  }
  return (
    <form
      role="alert"
      data-testid="sign-in-again"
      className="flex shrink-0 flex-wrap items-end gap-x-4 gap-y-2 border-b border-sand-300 bg-amber-100 px-4 py-2.5"
      onSubmit={(e) => {
        e.preventDefault()
        if (!busy) void enter()
      }}
    >
      <p className="max-w-xl min-w-56 flex-1 self-center text-amber-600">{sentences.youWereSignedOut}</p>
      {!session.demo && (
        <Field
          id="password-again"
          className="w-64"
          label={sentences.passwordOf(session.address)}
          type="password"
          autoFocus
          autoComplete="current-password"
          value={password}
          wrong={asked ? '' : wrong}
          onChange={(e) => setPassword(e.target.value)}
        />
      )}
      {asked && (
        <Field
          id="code-again"
          className="w-64"
          label={sentences.theCode}
          autoFocus
          autoComplete="one-time-code"
          value={code}
          wrong={wrong}
          onChange={(e) => setCode(e.target.value)}
        />
      )}
      {asked === 'code-or-passkey' && knowsPasskeys() && (
        <Button quiet disabled={busy} onClick={() => void enter(true)}>
          {sentences.useYourPasskey}
        </Button>
      )}
      <Button type="submit" disabled={busy}>
        {session.demo ? sentences.openTheMuseumsInbox : sentences.signIn}
      </Button>
      {session.demo && wrong && <Notice>{wrong}</Notice>}
    </form>
  )
}
