import { useQuery } from '@tanstack/react-query'
import { type FormEvent, type ReactNode, useState } from 'react'
import { EbbeError, get, post, told } from '../../api/client'
import type { RecoveryCodes } from '../../api/desk'
import type { CodeSetup, PasskeyOffer, PasskeyView, Security } from '../../api/gen/identity'
import { knowsPasskeys, makePasskey } from '../../api/passkey'
import { client } from '../../api/queries'
import { useMe } from '../../api/session'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Field, labelLook } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { Loading } from '../../kit/loading'
import { useOnce } from '../../kit/once'
import { SavedField } from '../../kit/saved'
import { Codes } from '../door/codes'
import { Leaving } from './leaving'
import { Part } from './part'
import { sentences } from './sentences'

const seen = () => client.invalidateQueries({ queryKey: ['security'] })

/** How the user signs in: their name, their password, what is asked for besides, and where they are signed in. */
export function SigningIn() {
  const { say } = useDesk()
  const session = useMe()
  const { data } = useQuery({ queryKey: ['security'], queryFn: () => get<Security>('/security') })
  if (!data) return <Loading what={sentences.loading} />
  const end = async (id: string) => {
    try {
      await post('/sessions/end', { id })
      say({ text: id ? sentences.ended : sentences.othersEnded })
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
    void seen()
  }
  return (
    <Part id="signing-in" name={sentences.signingIn}>
      <SavedField
        id="own-name"
        label={sentences.yourName}
        value={session.name}
        maxLength={200}
        className="max-w-md"
        onSave={async (name) => {
          try {
            await post('/name', { name })
            await client.refetchQueries({ queryKey: ['session'] })
            say({ text: sentences.newNameIs })
            return undefined
          } catch (e) {
            return told(e)
          }
        }}
      />
      <Password />
      <Besides on={data.codes} />
      <Passkeys keys={data.passkeys} named={data.named} />
      <Recovery left={data.recovery} />
      <h3 className="mt-7 mb-1 text-[15px]">{sentences.whereSignedIn}</h3>
      <p className="mb-2 text-ink-500">{sentences.sessionsEnd(data.idle, data.most)}</p>
      <ul>
        {data.sessions.map((s) => (
          <li key={s.id} className="flex items-baseline gap-3 border-t border-sand-200 py-1.5" data-testid="session">
            <span className="min-w-0 flex-1">
              {sentences.signedInSince(s.browser, short(s.begun), short(s.seen))}
              <span className="block text-[12px] text-ink-500">{s.origin}</span>
            </span>
            {s.here ? (
              <span className="text-[12.5px] text-ink-500">{sentences.thisOne}</span>
            ) : (
              <TextButton small onClick={() => void end(s.id)}>
                {sentences.endIt}
              </TextButton>
            )}
          </li>
        ))}
      </ul>
      {data.sessions.length > 1 && (
        <Button quiet size="small" className="mt-2" onClick={() => void end('')}>
          {sentences.endAllOthers}
        </Button>
      )}
      <Leaving leaves={data.leaves} />
    </Part>
  )
}

/** Some fields that are sent together; what is wrong stands below the one it is about. */
function Sent<T>({
  name,
  fields,
  does,
  quiet,
  send,
  children,
}: {
  name: string // begins the IDs of its fields
  fields: { id: string; label: string; secret?: 'old' | 'new' }[]
  does: string
  quiet?: boolean
  send: (said: Record<string, string>) => Promise<T>
  children?: ReactNode
}) {
  const [said, setSaid] = useState<Record<string, string>>({})
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const finished = useFinished(...fields.map((f) => name + '-' + f.id))
  const submit = useOnce(async () => {
    setWrong(null)
    try {
      await send(said)
      finished()
      setSaid({})
    } catch (e) {
      setWrong(e instanceof EbbeError ? e : new EbbeError(told(e), 0, ''))
    }
  })
  const below = fields.some((f) => f.id === wrong?.field) ? wrong?.field : fields.at(-1)?.id
  return (
    <form
      className="flex max-w-md flex-col items-start gap-2.5"
      onSubmit={(e: FormEvent) => {
        e.preventDefault()
        submit()
      }}
    >
      {fields.map((f) => (
        <Field
          key={f.id}
          id={name + '-' + f.id}
          label={f.label}
          type={f.secret ? 'password' : undefined}
          autoComplete={f.secret === 'old' ? 'current-password' : f.secret === 'new' ? 'new-password' : 'off'}
          className="w-full"
          value={said[f.id] ?? ''}
          wrong={wrong && below === f.id ? wrong.message : undefined}
          onChange={(e) => setSaid((s) => ({ ...s, [f.id]: e.target.value }))}
        />
      ))}
      {children}
      <Button type="submit" quiet={quiet}>
        {does}
      </Button>
    </form>
  )
}

const heading = (text: string) => <h3 className="mt-7 mb-1 text-[15px]">{text}</h3>

function Password() {
  const { say } = useDesk()
  return (
    <>
      {heading(sentences.aNewPassword)}
      <Sent
        name="change"
        quiet
        does={sentences.changeThePassword}
        fields={[
          { id: 'password', label: sentences.passwordNow, secret: 'old' },
          { id: 'fresh', label: sentences.passwordThen, secret: 'new' },
        ]}
        send={async (said) => {
          try {
            await post('/password', said)
          } catch (e) {
            // What is wrong with the new one is told of the password, too: the old one is looked at first.
            if (e instanceof EbbeError && e.field === 'password' && !e.message.startsWith('That is not your'))
              throw new EbbeError(e.message, e.status, e.type, 'fresh')
            throw e
          }
          say({ text: sentences.passwordIsChanged })
          void seen()
        }}
      />
    </>
  )
}

/** Codes by the time, which an app shows. */
function Besides({ on }: { on: boolean }) {
  const { say } = useDesk()
  const [offer, setOffer] = useState<CodeSetup | null>(null)
  const [codes, setCodes] = useState<string[]>([])
  const password = { id: 'password', label: sentences.yourPassword, secret: 'old' } as const
  if (codes.length > 0) return <Told codes={codes} done={() => setCodes([])} />
  return (
    <>
      {heading(sentences.aCodeBesides)}
      <p className="mb-2 text-ink-500">{on ? sentences.codesAreAsked : sentences.appsShowCodes}</p>
      {on ? (
        <Sent
          name="drop"
          quiet
          does={sentences.askForNoCodes}
          fields={[password]}
          send={async (said) => {
            await post('/codes/drop', said)
            say({ text: sentences.codesAreOff })
            void seen()
          }}
        />
      ) : offer ? (
        <Sent
          name="codes"
          does={sentences.askForCodes}
          fields={[{ id: 'code', label: sentences.theCodeItShows }, password]}
          send={async (said) => {
            const done = await post<RecoveryCodes>('/codes', { ...said, secret: offer.secret })
            say({ text: sentences.codesAreOn })
            setOffer(null)
            setCodes(done.codes)
            void seen()
          }}
        >
          <div className="order-first">
            <p className="mb-2 text-ink-500">{sentences.scanThis}</p>
            <img src={offer.picture} alt="" width={180} height={180} className="rounded-[9px] bg-white p-2" />
            <code className="mt-1 block text-[13px] break-all" data-testid="secret">
              {offer.secret}
            </code>
          </div>
        </Sent>
      ) : (
        <Button
          quiet
          onClick={() =>
            void post<CodeSetup>('/codes/offer')
              .then(setOffer)
              .catch((e: unknown) => say({ text: told(e), wrong: true }))
          }
        >
          {sentences.setUpCodes}
        </Button>
      )}
    </>
  )
}

/** Passkeys: asked for besides the password, in the place of a code. */
function Passkeys({ keys, named }: { keys: PasskeyView[]; named: boolean }) {
  const { say } = useDesk()
  const [making, setMaking] = useState(false)
  const [removing, setRemoving] = useState(0)
  const password = { id: 'password', label: sentences.yourPassword, secret: 'old' } as const
  const can = named && knowsPasskeys()
  return (
    <>
      {heading(sentences.passkeys)}
      <p className="mb-2 text-ink-500">
        {named ? (can ? sentences.aPasskeyIs : sentences.browserKnowsNone) : sentences.noNameNoPasskeys}
      </p>
      <ul>
        {keys.map((k) => (
          <li key={k.id} className="border-t border-sand-200 py-1.5" data-testid="passkey">
            <span className="flex items-baseline gap-3">
              <span className="min-w-0 flex-1 wrap-anywhere">
                {sentences.passkeyMade(k.name, short(k.made), k.used ? short(k.used) : '')}
              </span>
              <TextButton small onClick={() => setRemoving(removing === k.id ? 0 : k.id)}>
                {sentences.remove}
              </TextButton>
            </span>
            {removing === k.id && (
              <Sent
                name="passkey-drop"
                quiet
                does={sentences.removePasskey(k.name)}
                fields={[password]}
                send={async (said) => {
                  await post(`/passkeys/${k.id}/drop`, said)
                  setRemoving(0)
                  say({ text: sentences.passkeyIsRemoved })
                  void seen()
                }}
              />
            )}
          </li>
        ))}
      </ul>
      {can &&
        (making ? (
          <Sent
            name="passkey"
            does={sentences.makeIt}
            fields={[{ id: 'name', label: sentences.whatYouCallIt }, password]}
            send={async (said) => {
              const given = await makePasskey(await post<PasskeyOffer>('/passkeys/offer', said))
              await post('/passkeys', { name: said.name, ...given })
              setMaking(false)
              say({ text: sentences.passkeyIsMade })
              void seen()
            }}
          />
        ) : (
          <Button quiet onClick={() => setMaking(true)}>
            {sentences.makeAPasskey}
          </Button>
        ))}
    </>
  )
}

const Told = ({ codes, done }: { codes: string[]; done: () => void }) => (
  <div className="mt-7 max-w-md">
    <Codes codes={codes} />
    <Button className="mt-3" onClick={done}>
      {sentences.iHaveKeptThem}
    </Button>
  </div>
)

function Recovery({ left }: { left: number }) {
  const [asking, setAsking] = useState(false)
  const [codes, setCodes] = useState<string[]>([])
  if (codes.length > 0) return <Told codes={codes} done={() => setCodes([])} />
  return (
    <>
      {heading(sentences.recoveryCodes)}
      <p className="mb-2 text-ink-500">{sentences.recoveryLeft(left)}</p>
      {asking ? (
        <Sent
          name="recovery"
          does={sentences.makeNewCodes}
          fields={[{ id: 'password', label: sentences.yourPassword, secret: 'old' }]}
          send={async (said) => {
            setCodes((await post<RecoveryCodes>('/recovery-codes', said)).codes)
            setAsking(false)
            void seen()
          }}
        >
          <span className={labelLook}>{sentences.newCodesEndOld}</span>
        </Sent>
      ) : (
        <Button quiet onClick={() => setAsking(true)}>
          {sentences.makeNewCodes}
        </Button>
      )}
    </>
  )
}
