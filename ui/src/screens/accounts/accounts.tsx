import { Loading } from '../../kit/loading'
import { Heading } from '../../kit/heading'
import { Select } from '../../kit/select'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { CheckCircleIcon, WarningCircleIcon } from '@phosphor-icons/react'
import { EbbeError, get, post, put, told } from '../../api/client'
import type { AccountDraft, AccountTest, AccountView, RestoredView, ServersFound } from '../../api/desk'
import type { Server } from '../../api/gen/mail'
import { client, useAccounts, useSession } from '../../api/queries'
import { long, plural } from '../../api/times'
import { Checkbox } from '../../kit/checkbox'
import { Button, TextButton } from '../../kit/button'
import { Field, TextArea } from '../../kit/field'
import { Chip, Empty, Failed } from '../../kit/kit'
import { isAddress } from '../../kit/addresses'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'

const all = { archive: true, bin: true, junk: true, read: true, star: true }
const nowhere: Server = { host: '', port: 0, security: 'tls' }
const carried = [
  ['archive', 'archived'],
  ['bin', 'binned'],
  ['junk', 'junk'],
  ['read', 'read or unread'],
  ['star', 'starred'],
] as const

/** The mail accounts: how they stand, and what is needed to connect one. */
export function AccountsScreen() {
  const { data, error, refetch } = useAccounts()
  const [open, setOpen] = useState<number>() // 0: a new one
  const session = useSession().data!
  useCommands(open !== undefined ? [{ id: 'back', run: () => setOpen(undefined), hidden: true }] : [])
  if (error) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what="Loading the accounts" />
  const account = data.accounts.find((a) => a.id === open)
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto grid max-w-4xl grid-cols-[minmax(0,1fr)] gap-5">
        <div className="flex items-center justify-between gap-4">
          <div>
            <Heading>Accounts</Heading>
            <p className="text-ink-500">
              Where your mail lies. Ebbe fetches it from there, sends through there, and carries your decisions back.
            </p>
          </div>
          {open === undefined && data.accounts.length > 0 && (
            <Button onClick={() => setOpen(0)}>Connect another</Button>
          )}
        </div>
        {data.uncarried > 0 && (
          <p className="rounded-[10px] bg-amber-100 px-4 py-2.5 text-amber-600" data-testid="uncarried">
            {plural(data.uncarried, 'decision has', 'decisions have')} not reached the server yet; Ebbe tries again by
            itself. {data.problem}
          </p>
        )}
        {open === undefined && <Restored />}
        {open !== undefined ? (
          <Form key={open} account={account} name={session.name} onDone={() => setOpen(undefined)} />
        ) : data.accounts.length === 0 ? (
          <div>
            <Empty title="No account is connected">
              Ebbe has the mail you imported, and nothing new comes in. Connect an account and its mail appears here,
              the newest first.
            </Empty>
            <p className="text-center">
              <Button autoFocus onClick={() => setOpen(0)}>
                Connect an account
              </Button>
            </p>
          </div>
        ) : (
          <ul className="grid grid-cols-[minmax(0,1fr)] gap-3">
            {data.accounts.map((a) => (
              <Card key={a.id} a={a} onChange={() => setOpen(a.id)} />
            ))}
          </ul>
        )}
      </div>
    </div>
  )
}

const placed: Record<string, string> = {
  inbox: 'back in the inbox',
  archived: 'archived',
  bin: 'binned',
  junk: 'junk',
  snoozed: 'snoozed',
}

/** What vanished from a server in great numbers: nothing has followed, and the user says what is to. */
function Vanished({ a }: { a: AccountView }) {
  const { say } = useDesk()
  const [busy, setBusy] = useState(false)
  const settle = (follow: boolean) => {
    setBusy(true)
    post<{ text: string }>(`/accounts/${a.id}/vanished`, { follow })
      .then((v) => {
        say({ text: v.text })
        void client.invalidateQueries({ queryKey: ['accounts'] })
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
      .finally(() => setBusy(false))
  }
  return (
    <div role="alert" className="mt-2 rounded-[10px] bg-amber-100 px-4 py-2.5 text-amber-600" data-testid="vanished">
      <p>
        {plural(a.vanished, 'message')} vanished from this server at once: emptied, restored empty, or another program
        gone wrong. Nothing has followed from it here.
      </p>
      <p className="mt-2 flex flex-wrap gap-2">
        <Button disabled={busy} onClick={() => settle(false)}>
          Put them back
        </Button>
        <Button quiet disabled={busy} onClick={() => settle(true)}>
          Follow: bin them here too
        </Button>
      </p>
    </div>
  )
}

/** What waits for the user’s word since this Ebbe was restored from a backup. */
function Restored() {
  const { say } = useDesk()
  const { data } = useQuery({ queryKey: ['accounts', 'restored'], queryFn: () => get<RestoredView>('/restored') })
  const [busy, setBusy] = useState(false)
  if (!data || (!data.resting && !data.messages.length && !data.decisions.length && !data.reminders.length)) return null
  const settle = (what: string, release: boolean) => {
    setBusy(true)
    post<{ text: string }>('/restored', { what, release })
      .then((v) => {
        say({ text: v.text })
        void client.invalidateQueries({ queryKey: ['accounts'] })
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
      .finally(() => setBusy(false))
  }
  const shown = 5
  return (
    <section
      aria-label="Restored from a backup"
      className="grid grid-cols-[minmax(0,1fr)] gap-3 rounded-[10px] border border-sand-200 px-4 py-3"
      data-testid="restored"
    >
      <b className="text-[15px]">Restored from a backup</b>
      {data.resting && (
        <p className="text-ink-700">
          Until your accounts have been looked at, nothing goes out, comes back, or is carried to a server.
        </p>
      )}
      {data.messages.length > 0 && (
        <div>
          <p>
            {plural(data.messages.length, 'message')} waited when the backup was made. Ebbe cannot know whether{' '}
            {data.messages.length === 1 ? 'it has' : 'they have'} gone since.
          </p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.messages.slice(0, shown).map((m) => (
              <li key={m.id} className="truncate">
                “{m.subject || '(no subject)'}” to {m.to.name || m.to.address}, {long(m.at)}
              </li>
            ))}
            {data.messages.length > shown && <li>and {data.messages.length - shown} more</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('messages', false)}>
              Do not send
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('messages', true)}>
              Send now
            </Button>
          </p>
        </div>
      )}
      {data.decisions.length > 0 && (
        <div>
          <p>{plural(data.decisions.length, 'decision')} had not reached the server when the backup was made.</p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.decisions.slice(0, shown).map((d) => (
              <li key={d.id} className="truncate">
                “{d.subject || '(no subject)'}”, {d.from}: {placed[d.place] ?? d.place}
              </li>
            ))}
            {data.decisions.length > shown && <li>and {data.decisions.length - shown} more</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('decisions', true)}>
              Carry them there
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('decisions', false)}>
              Leave the server as it is
            </Button>
          </p>
        </div>
      )}
      {data.reminders.length > 0 && (
        <div>
          <p>{plural(data.reminders.length, 'reminder is', 'reminders are')} past since the backup was made.</p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.reminders.slice(0, shown).map((r, i) => (
              <li key={i} className="truncate">
                {r}
              </li>
            ))}
            {data.reminders.length > shown && <li>and {data.reminders.length - shown} more</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('reminders', true)}>
              Remind now
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('reminders', false)}>
              Skip them
            </Button>
          </p>
        </div>
      )}
    </section>
  )
}

function Card({ a, onChange }: { a: AccountView; onChange: () => void }) {
  const first = !a.synced && !a.trouble && !a.paused
  const back = carried.filter(([k]) => a.carries[k]).map(([, name]) => name)
  return (
    <li className="rounded-[10px] border border-sand-200 px-4 py-3" data-testid="account">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <b className="text-[15px]">{a.name}</b>
        <span className="min-w-0 truncate text-ink-500">{a.address}</span>
        <span className="ml-auto">
          {a.paused ? (
            <Chip>paused</Chip>
          ) : a.trouble ? (
            <Chip tone="late">not synced</Chip>
          ) : first ? (
            <Chip tone="tide">coming in</Chip>
          ) : (
            <Chip tone="done">up to date</Chip>
          )}
        </span>
        <TextButton onClick={onChange}>Change</TextButton>
      </div>
      {first && a.expected > 0 && (
        <div className="mt-2">
          <div
            role="progressbar"
            aria-label={`Mail of ${a.name}`}
            aria-valuemin={0}
            aria-valuemax={a.expected}
            aria-valuenow={a.brought}
            className="h-1.5 overflow-hidden rounded-full bg-sand-200"
          >
            <div className="h-full bg-fill" style={{ width: `${Math.min(100, (100 * a.brought) / a.expected)}%` }} />
          </div>
          <p className="mt-1 text-[12.5px] text-ink-500">
            {a.brought.toLocaleString('en-GB')} of {a.expected.toLocaleString('en-GB')} messages are here, the newest
            first. You can work meanwhile; it goes on where it was if Ebbe is closed.
          </p>
        </div>
      )}
      {a.vanished > 0 && <Vanished a={a} />}
      {a.trouble && (
        <p role="alert" className="mt-1.5 text-[13px] text-coral-600">
          {a.trouble} {a.synced > 0 && `Last synced ${long(a.synced)}.`} Ebbe tries again by itself; nothing is lost.
        </p>
      )}
      <dl className="mt-1.5 grid grid-cols-[88px_minmax(0,1fr)] gap-x-3 text-[12.5px]">
        <dt className="text-ink-500">Servers</dt>
        <dd className="truncate">
          {a.mailbox.host} and {a.sending.host}
        </dd>
        <dt className="text-ink-500">Carried back</dt>
        <dd>
          {back.length === carried.length
            ? 'all that you decide'
            : back.length
              ? back.join(', ')
              : 'nothing: decisions stay in Ebbe'}
        </dd>
        {!a.trouble && a.synced > 0 && (
          <>
            <dt className="text-ink-500">In step</dt>
            <dd>{long(a.synced)}</dd>
          </>
        )}
      </dl>
    </li>
  )
}

/** Connecting an account: its address first, then what has to be known of its servers. */
function Form({ account, name, onDone }: { account?: AccountView; name: string; onDone: () => void }) {
  const { say } = useDesk()
  const [v, setV] = useState<AccountDraft>(
    account
      ? { ...account, secret: '' }
      : {
          id: 0,
          name: '',
          address: '',
          fullName: name,
          signature: '',
          mailbox: nowhere,
          sending: nowhere,
          login: '',
          secret: '',
          token: false,
          carries: all,
          paused: false,
          emptyDays: 0,
        },
  )
  const [found, setFound] = useState<ServersFound | null>(null)
  const [test, setTest] = useState<AccountTest | null>(null)
  const [busy, setBusy] = useState('')
  const [wrong, setWrong] = useState<{ field: string; text: string } | null>(null)
  const known = !!account || !!found
  const change = (c: Partial<AccountDraft>) => {
    setV({ ...v, ...c })
    setTest(null)
    setWrong(null)
  }
  const failed = (e: unknown) => setWrong({ field: e instanceof EbbeError ? (e.field ?? '') : '', text: told(e) })
  const at = (field: string) => (wrong?.field === field ? wrong.text : undefined)
  const run = async (what: string, f: () => Promise<void>) => {
    setBusy(what)
    setWrong(null)
    try {
      await f()
    } catch (e) {
      failed(e)
    } finally {
      setBusy('')
    }
  }
  const find = () =>
    run('Looking for the servers…', async () => {
      const f = await get<ServersFound>('/accounts/servers?address=' + encodeURIComponent(v.address.trim()))
      setFound(f)
      setV({ ...v, mailbox: f.mailbox, sending: f.sending, name: v.name || v.address.trim().split('@')[1] })
    })
  const tryIt = () => run('Trying…', async () => setTest(await post<AccountTest>('/accounts/test', v)))
  const store = () =>
    run('Storing…', async () => {
      await put('/accounts', v)
      void client.invalidateQueries({ queryKey: ['accounts'] })
      say({ text: account ? 'Saved.' : 'Connected. Its mail comes in now, the newest first.' })
      onDone()
    })
  const drop = () =>
    run('Taking it away…', async () => {
      await post(`/accounts/${account!.id}/drop`)
      void client.invalidateQueries({ queryKey: ['accounts'] })
      say({ text: `“${account!.name}” is taken away. Its mail stays here and on the server.` })
      onDone()
    })
  const [sure, setSure] = useState(false)
  const submit = (e: React.FormEvent) => {
    e.preventDefault()
    void (!known ? find() : test?.fine || account ? store() : tryIt().then())
  }
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- Escape of any field in it
    <form
      aria-label={account ? `Change ${account.name}` : 'Connect an account'}
      data-testid="account-form"
      className="grid gap-4"
      onSubmit={submit}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation()
          onDone()
        }
      }}
    >
      <div className="flex items-end gap-3">
        <Field
          id="address"
          className="max-w-md flex-1"
          label="Mail address"
          type="email"
          autoFocus={!account}
          value={v.address}
          wrong={at('address')}
          autoComplete="email"
          onChange={(e) => {
            change({ address: e.target.value })
            if (!account) setFound(null)
          }}
        />
        {!account && (
          <Button
            type={known ? 'button' : 'submit'}
            quiet={known}
            disabled={!isAddress(v.address.trim()) || !!busy}
            className={at('address') ? 'mb-6' : ''}
            onClick={known ? () => void find() : undefined}
          >
            Find its servers
          </Button>
        )}
      </div>
      {known && (
        <>
          {found && (
            <p className={found.announced ? 'text-kelp-600' : 'text-amber-600'} role="status" data-testid="found">
              {found.announced
                ? 'Its domain names these servers.'
                : 'Its domain names no servers. These are the usual names: check them against what your provider says.'}
            </p>
          )}
          <div className="grid grid-cols-2 gap-5 max-[700px]:grid-cols-1">
            <ServerFields
              legend="Mailbox (IMAP)"
              id="mailbox"
              s={v.mailbox}
              wrong={at('mailbox')}
              usual={[993, 143]}
              onChange={(mailbox) => change({ mailbox })}
            />
            <ServerFields
              legend="Sending (SMTP)"
              id="sending"
              s={v.sending}
              wrong={at('sending')}
              usual={[465, 587]}
              onChange={(sending) => change({ sending })}
            />
          </div>
          <div className="grid grid-cols-2 gap-x-5 gap-y-3 max-[700px]:grid-cols-1">
            <Field
              id="login"
              label="Sign in as (empty: the address)"
              value={v.login}
              autoComplete="off"
              onChange={(e) => change({ login: e.target.value })}
            />
            <Field
              id="secret"
              label={(v.token ? 'Token' : 'Password') + (account ? ' (empty: as it was)' : '')}
              type="password"
              autoComplete="new-password"
              value={v.secret}
              wrong={at('secret')}
              onChange={(e) => change({ secret: e.target.value })}
            />
            <Field
              id="account-name"
              label="What you call it"
              value={v.name}
              maxLength={100}
              onChange={(e) => change({ name: e.target.value })}
            />
            <Field
              id="full-name"
              label="Your name, as others see it"
              value={v.fullName}
              maxLength={200}
              onChange={(e) => change({ fullName: e.target.value })}
            />
            <TextArea
              id="signature"
              label="Signature"
              rows={3}
              maxLength={2000}
              value={v.signature}
              wrong={at('signature')}
              onChange={(e) => change({ signature: e.target.value })}
            />
            <fieldset>
              <legend className="mb-1 text-[11.5px] font-[650] text-ink-500">
                Carried back to the server: what you have
              </legend>
              <div className="flex flex-wrap gap-x-4 gap-y-1">
                {carried.map(([k, label]) => (
                  <Checkbox
                    key={k}
                    checked={v.carries[k]}
                    onChange={(on) => change({ carries: { ...v.carries, [k]: on } })}
                  >
                    {label}
                  </Checkbox>
                ))}
              </div>
              <Checkbox checked={v.token} onChange={(on) => change({ token: on })} className="mt-2">
                sign in with a token (XOAUTH2), not a password
              </Checkbox>
              <Select
                id="empty-days"
                label="Empty bin and junk of what Ebbe put there"
                className="mt-2 max-w-72"
                value={v.emptyDays}
                options={[0, 14, 30, 90, 365].map((n) => ({ id: n, name: n ? `after ${n} days` : 'never' }))}
                onChange={(emptyDays) => change({ emptyDays })}
              />
              {v.emptyDays > 0 && (
                <p className="mt-1 text-[12.5px] text-amber-600">
                  It is removed for good then, here and on the server. What lay there before stays.
                </p>
              )}
              {account && (
                <Checkbox id="paused" checked={v.paused} onChange={(on) => change({ paused: on })} className="mt-1">
                  paused: neither fetched nor carried back
                </Checkbox>
              )}
            </fieldset>
          </div>
        </>
      )}
      {test && (
        <ul className="grid gap-1.5" data-testid="test" role="status">
          {test.steps.map((s) => (
            <li
              key={s.name}
              className={`flex items-start gap-2 rounded-[9px] px-3 py-2 ${s.fine ? 'bg-kelp-100 text-kelp-600' : 'bg-coral-100 text-coral-600'}`}
            >
              {s.fine ? (
                <CheckCircleIcon size={18} className="mt-px shrink-0" aria-hidden />
              ) : (
                <WarningCircleIcon size={18} className="mt-px shrink-0" aria-hidden />
              )}
              <span>
                {s.fine
                  ? `${s.server} lets you in${s.name === 'mailbox' ? ` and has ${plural(test.folders?.length ?? 0, 'folder')}` : ' and takes mail from you'}.`
                  : s.text}
                {s.offer && (
                  <Button quiet className="mt-2 block" onClick={() => change({ [s.name]: { ...s.offer } })}>
                    Use {s.offer.security === 'tls' ? 'TLS' : 'STARTTLS'} instead
                  </Button>
                )}
                {s.fingerprint && (
                  <span className="mt-1 block text-[12.5px]">
                    Fingerprint: <code className="break-all">{s.fingerprint.match(/../g)!.join(':')}</code>
                    <Button
                      quiet
                      className="mt-2 block"
                      onClick={() =>
                        change({
                          [s.name]: { ...(s.name === 'mailbox' ? v.mailbox : v.sending), trust: s.fingerprint },
                        })
                      }
                    >
                      Trust this certificate for this account
                    </Button>
                  </span>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {wrong && !['address', 'mailbox', 'sending', 'secret', 'signature'].includes(wrong.field) && (
        <p role="alert" className="text-coral-600">
          {wrong.text}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {known && (
          <Button
            type={account || test?.fine ? 'button' : 'submit'}
            quiet={!!account || test?.fine}
            disabled={!!busy}
            onClick={account || test?.fine ? () => void tryIt() : undefined}
          >
            Try it
          </Button>
        )}
        {known && (
          <Button
            type={account || test?.fine ? 'submit' : 'button'}
            quiet={!account && !test?.fine}
            disabled={!!busy}
            onClick={account || test?.fine ? undefined : () => void store()}
          >
            {account ? 'Save' : 'Connect'}
          </Button>
        )}
        <Button quiet onClick={onDone}>
          Cancel
        </Button>
        <span className="text-ink-500" role="status">
          {busy}
        </span>
        {account && (
          <span className="ml-auto flex items-center gap-2">
            {sure && <span className="text-[12.5px] text-ink-500">Its mail stays here and on the server.</span>}
            <Button
              quiet
              className="text-coral-600"
              disabled={!!busy}
              onClick={() => (sure ? void drop() : setSure(true))}
            >
              {sure ? 'Delete the account now' : 'Delete the account'}
            </Button>
          </span>
        )}
      </div>
    </form>
  )
}

function ServerFields({
  legend,
  id,
  s,
  wrong,
  usual,
  onChange,
}: {
  legend: string
  id: string
  s: Server
  wrong?: string
  usual: [number, number]
  onChange: (s: Server) => void
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-semibold">{legend}</legend>
      <div className="grid grid-cols-[minmax(0,1fr)_76px_116px] gap-2">
        <Field
          id={id + '-host'}
          label="Server"
          value={s.host}
          wrong={wrong}
          autoComplete="off"
          spellCheck={false}
          onChange={(e) => onChange({ ...s, host: e.target.value })}
        />
        <Field
          id={id + '-port'}
          label="Port"
          inputMode="numeric"
          value={s.port || ''}
          autoComplete="off"
          onChange={(e) => onChange({ ...s, port: Number(e.target.value.replace(/\D/g, '')) || 0 })}
        />
        <Select
          id={id + '-security'}
          label="Encryption"
          value={s.security}
          options={[
            { id: 'tls', name: 'TLS' },
            { id: 'starttls', name: 'STARTTLS' },
            ...(s.security === 'none' ? [{ id: 'none', name: 'nothing' }] : []),
          ]}
          onChange={(security) =>
            onChange({
              ...s,
              security,
              port: s.port === usual[0] || s.port === usual[1] ? usual[security === 'tls' ? 0 : 1] : s.port,
            })
          }
        />
      </div>
    </fieldset>
  )
}
