import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { EbbeError, post } from '../../api/client'
import type { Entered, Session } from '../../api/desk'
import type { InvitationView, PasskeyOffer } from '../../api/gen/identity'
import { knowsPasskeys, showPasskey } from '../../api/passkey'
import { client } from '../../api/queries'
import { demoAs, firstOf } from '../../frame/demo'
import { Button, TextButton } from '../../kit/button'
import { Codes } from './codes'
import { Field } from '../../kit/field'
import { Notice } from '../../kit/notice'
import { sentences } from './sentences'

/** The secret part of an invitation stands behind the #, so that no server ever sees it in an address. */
const invitation = () => (location.pathname === '/invited' ? location.hash.slice(1) : '')

/** In the way in: what one does there. */
type Way = 'begin' | 'join' | 'sign-in' | 'recover'

/** The way in: the first set-up, an invitation, signing in, a forgotten password, or one click for the demo. */
export function Door({ session }: { session: Session }) {
  const token = invitation()
  const [way, setWay] = useState<Way>(token ? 'join' : session.state === 'setup' ? 'begin' : 'sign-in')
  const [fields, setFields] = useState<Record<string, string>>({})
  const [asked, setAsked] = useState('') // for a code besides the password, or a passkey
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const [busy, setBusy] = useState(false)
  const [entered, setEntered] = useState<Entered | null>(null) // with something to know first
  const [noted, setNoted] = useState('')
  const invited = useQuery({
    queryKey: ['invited', token],
    queryFn: () => post<InvitationView>('/invited', { token }),
    enabled: way === 'join',
    retry: false,
  })
  const go = () => {
    if (token) history.replaceState(null, '', '/')
    void client.resetQueries({ queryKey: ['session'] })
  }
  const turn = (to: Way) => {
    setWay(to)
    setWrong(null)
    setNoted('')
    setAsked('')
    setFields({ address: fields.address ?? '' })
  }
  const enter = async (path: string, body: unknown) => {
    setBusy(true)
    setWrong(null)
    try {
      const done = await post<Entered>(path, body)
      if (way === 'recover') {
        turn('sign-in')
        setNoted(sentences.theNewPasswordIs)
      } else if (done.tell || done.codes.length) setEntered(done)
      else go()
    } catch (e) {
      const was = e instanceof EbbeError ? e : new EbbeError(sentences.somethingWentWrongTry, 0, '')
      if (was.type === 'code' || was.type === 'code-or-passkey') setAsked((a) => a || was.type)
      setWrong(was)
    } finally {
      setBusy(false)
    }
  }
  const show = async () => {
    try {
      const given = await showPasskey(await post<PasskeyOffer>('/sign-in/passkey', fields))
      await enter('/sign-in', { ...fields, code: '', ...given })
    } catch (e) {
      setWrong(e instanceof EbbeError ? e : new EbbeError(sentences.somethingWentWrongTry, 0, ''))
    }
  }
  const submit = () => {
    const body = {
      ...fields,
      token,
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      languages: navigator.languages,
    }
    if (way === 'join') return enter('/join', { ...body, name: fields.name ?? invited.data?.name })
    return enter({ begin: '/setup', 'sign-in': '/sign-in', recover: '/recover' }[way], body)
  }
  const field = (
    id: string,
    label: string,
    more?: { type?: string; autoComplete?: string; first?: boolean; value?: string },
  ) => (
    <Field
      key={id}
      id={id}
      label={label}
      type={more?.type}
      value={fields[id] ?? more?.value ?? ''}
      autoFocus={more?.first}
      autoComplete={more?.autoComplete ?? 'off'}
      wrong={wrong?.field === id ? wrong.message : undefined}
      onChange={(e) => setFields((f) => ({ ...f, [id]: e.target.value }))}
    />
  )
  const address = (first: boolean) =>
    field('address', sentences.yourMailAddress, { type: 'email', autoComplete: 'username', first })
  const fresh = field('password', sentences.aPasswordOfAt, { type: 'password', autoComplete: 'new-password' })
  const name = field('name', sentences.yourName, { autoComplete: 'name', first: true, value: invited.data?.name })
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
          noValidate
          className="rounded-[10px] bg-sand-0 px-6 py-6"
          onSubmit={(e) => {
            e.preventDefault()
            if (entered) go()
            else void submit()
          }}
        >
          {entered ? (
            <>
              {entered.tell && <Notice>{entered.tell}</Notice>}
              {entered.codes.length > 0 && <Codes codes={entered.codes} />}
              <Button type="submit" className="mt-5 w-full" autoFocus={!entered.codes.length}>
                {entered.codes.length ? sentences.theyAreKept : sentences.goOn}
              </Button>
            </>
          ) : session.demo ? (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">{sentences.theSkagvikTideMuseum}</h2>
              <p className="mt-1 mb-5 text-ink-500">
                {demoAs() && demoAs() !== 'solvei'
                  ? sentences.youAreOfTheTeam(session.people.find((p) => firstOf(p) === demoAs()) ?? session.people[0])
                  : sentences.youAreSolveiArnkvist}
              </p>
              <Button
                className="w-full"
                disabled={busy}
                autoFocus
                onClick={() => void enter('/demo/sign-in', { as: demoAs() })}
              >
                {sentences.openTheMuseumsInbox}
              </Button>
            </>
          ) : way === 'join' && !invited.data ? (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">{sentences.anInvitation}</h2>
              {invited.error && <Notice className="mt-3">{invited.error.message}</Notice>}
              <Button quiet className="mt-5 w-full" onClick={() => turn('sign-in')}>
                {sentences.signIn}
              </Button>
            </>
          ) : (
            <>
              <h2 className="text-[18px] tracking-[-.01em]">
                {
                  {
                    begin: sentences.yourInboxEmptyOnce,
                    join: sentences.yourInboxEmptyOnce,
                    'sign-in': sentences.signIn,
                    recover: sentences.aNewPassword,
                  }[way]
                }
              </h2>
              {way === 'begin' && <p className="mt-1 text-ink-500">{sentences.ebbeRunsOnThis}</p>}
              {way === 'join' && <p className="mt-1 text-ink-500">{sentences.youAreInvited(invited.data!.address)}</p>}
              {way === 'recover' && <p className="mt-1 text-ink-500">{sentences.oneOfYourRecovery}</p>}
              {noted && (
                <p role="status" className="mt-1 text-ink-500">
                  {noted}
                </p>
              )}
              <div className="mt-4 grid gap-3">
                {way === 'begin' && [
                  name,
                  address(false),
                  fresh,
                  session.asks && field('code', sentences.theCodePrinted),
                ]}
                {way === 'join' && [name, fresh]}
                {way === 'recover' && [
                  address(!fields.address),
                  field('code', sentences.aRecoveryCode, { first: !!fields.address }),
                  fresh,
                ]}
                {way === 'sign-in' && [
                  address(!fields.address),
                  field('password', sentences.password, { type: 'password', autoComplete: 'current-password' }),
                  asked && field('code', sentences.theCode, { autoComplete: 'one-time-code', first: true }),
                ]}
              </div>
              <Button type="submit" className="mt-5 w-full" disabled={busy}>
                {
                  {
                    begin: sentences.begin,
                    join: sentences.begin,
                    'sign-in': sentences.signIn,
                    recover: sentences.setThePassword,
                  }[way]
                }
              </Button>
              {way === 'sign-in' && asked === 'code-or-passkey' && knowsPasskeys() && (
                <Button quiet className="mt-2 w-full" disabled={busy} onClick={() => void show()}>
                  {sentences.useYourPasskey}
                </Button>
              )}
              {way === 'sign-in' && (
                <p className="mt-3 text-center">
                  <TextButton small onClick={() => turn('recover')}>
                    {sentences.forgotten}
                  </TextButton>
                </p>
              )}
              {way === 'recover' && (
                <p className="mt-3 text-[12.5px] text-ink-500">
                  {sentences.withoutACode}{' '}
                  <TextButton small onClick={() => turn('sign-in')}>
                    {sentences.backToSigningIn}
                  </TextButton>
                </p>
              )}
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
