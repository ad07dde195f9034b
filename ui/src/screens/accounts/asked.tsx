import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get, post, told } from '../../api/client'
import type { AccountView, RestoredView } from '../../api/desk'
import { client } from '../../api/queries'
import { long, plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Notice } from '../../kit/notice'
import { sentences } from './sentences'

/** What vanished from a server in great numbers: nothing has followed, and the user says what is to. */
export function Vanished({ a }: { a: AccountView }) {
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
    <Notice tone="doubt" boxed className="mt-2" testid="vanished">
      <p>{sentences.vanishedFromThisServer(plural(a.vanished, sentences.message))}</p>
      <p className="mt-2 flex flex-wrap gap-2">
        <Button disabled={busy} onClick={() => settle(false)}>
          {sentences.putThemBack}
        </Button>
        <Button quiet disabled={busy} onClick={() => settle(true)}>
          {sentences.followBinThemHere}
        </Button>
      </p>
    </Notice>
  )
}

const placed: Record<string, string> = {
  inbox: sentences.backInTheInbox,
  archived: sentences.archived,
  bin: sentences.binned,
  junk: sentences.junk,
  snoozed: sentences.snoozed,
}

/** What waits for the user’s word since this Ebbe was restored from a backup. */
export function Restored() {
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
      aria-label={sentences.restoredFromABackup}
      className="grid grid-cols-[minmax(0,1fr)] gap-3 rounded-[10px] border border-sand-200 px-4 py-3"
      data-testid="restored"
    >
      <b className="text-[15px]">{sentences.restoredFromABackup}</b>
      {data.resting && <p className="text-ink-700">{sentences.untilYourAccountsHave}</p>}
      {data.messages.length > 0 && (
        <div>
          <p>
            {sentences.waitedWhenTheBackup(
              plural(data.messages.length, sentences.message),
              data.messages.length === 1 ? sentences.itHas : sentences.theyHave,
            )}
          </p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.messages.slice(0, shown).map((m) => (
              <li key={m.id} className="truncate">
                {sentences.subjectTo(m.subject || sentences.noSubject, m.to.name || m.to.address, long(m.at))}
              </li>
            ))}
            {data.messages.length > shown && <li>{sentences.andMore(data.messages.length - shown)}</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('messages', false)}>
              {sentences.doNotSend}
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('messages', true)}>
              {sentences.sendNow}
            </Button>
          </p>
        </div>
      )}
      {data.decisions.length > 0 && (
        <div>
          <p>{sentences.hadNotReachedThe(plural(data.decisions.length, sentences.decision))}</p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.decisions.slice(0, shown).map((d) => (
              <li key={d.id} className="truncate">
                “{d.subject || sentences.noSubject}”, {d.from}: {placed[d.place] ?? d.place}
              </li>
            ))}
            {data.decisions.length > shown && <li>{sentences.andMore(data.decisions.length - shown)}</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('decisions', true)}>
              {sentences.carryThemThere}
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('decisions', false)}>
              {sentences.leaveTheServerAs}
            </Button>
          </p>
        </div>
      )}
      {data.reminders.length > 0 && (
        <div>
          <p>
            {sentences.pastSinceTheBackup(plural(data.reminders.length, sentences.reminderIs, sentences.remindersAre))}
          </p>
          <ul className="mt-1 text-[13px] text-ink-500">
            {data.reminders.slice(0, shown).map((r, i) => (
              <li key={i} className="truncate">
                {r}
              </li>
            ))}
            {data.reminders.length > shown && <li>{sentences.andMore(data.reminders.length - shown)}</li>}
          </ul>
          <p className="mt-2 flex flex-wrap gap-2">
            <Button disabled={busy} onClick={() => settle('reminders', true)}>
              {sentences.remindNow}
            </Button>
            <Button quiet disabled={busy} onClick={() => settle('reminders', false)}>
              {sentences.skipThem}
            </Button>
          </p>
        </div>
      )}
    </section>
  )
}
