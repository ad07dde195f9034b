import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { get, post, told } from '../../api/client'
import type { InwardView } from '../../api/desk'
import { client } from '../../api/queries'
import { Button } from '../../kit/button'
import { useDesk } from '../../frame/desk'

/** The user's private addresses: what is sent to them becomes a follow-up, or comes back as a note. */
export function Inward() {
  const { say } = useDesk()
  const { data } = useQuery({ queryKey: ['inward'], queryFn: () => get<InwardView>('/inward') })
  const [sure, setSure] = useState(false)
  if (!data) return null
  const anew = () => {
    if (data.made && !sure) return setSure(true)
    void post<InwardView>('/inward')
      .then((v) => {
        client.setQueryData(['inward'], v)
        setSure(false)
        say({
          text: data.made ? 'You have new addresses. The old ones take nothing any more.' : 'You have addresses now.',
        })
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  }
  const host = data.host || 'your-host.example'
  const line = (address: string, what: string) => (
    <div className="border-t border-sand-200 py-1.5">
      <code className="block text-[13px] break-all">{address}</code>
      <span className="text-[12.5px] text-ink-500">{what}</span>
    </div>
  )
  return (
    <section aria-labelledby="inward" data-testid="inward">
      <h2 id="inward" className="mb-2 text-[15px]">
        Addresses into Ebbe
      </h2>
      <p className="mb-2 text-ink-500">
        {data.host
          ? 'Send or forward mail to them. Nobody else needs to know them.'
          : 'They work once Ebbe is started with --take-mail; mail to them is refused until then.'}
      </p>
      {data.made && !data.key && (
        <p className="mb-2 text-ink-500" data-testid="made">
          You have addresses. They were shown when they were made, and are not kept in a form that can be read; new ones
          end them.
        </p>
      )}
      {data.key && <p className="mb-2 font-semibold text-amber-600">Copy them now: they are shown this once.</p>}
      {data.key &&
        line(`todo-${data.key}@${host}`, 'becomes a follow-up: its title is the subject, and the mail stays with it')}
      {data.key && line(`todo-${data.key}+opening@${host}`, 'the same, in the project “opening”')}
      {data.key &&
        line(
          `note-${data.key}+fri-9@${host}`,
          'comes back to you on Friday at 9; any time may stand there, with dashes for spaces',
        )}
      <div className="mt-2 flex items-center gap-3">
        <Button quiet onClick={anew}>
          {sure ? 'Really: the old ones end' : data.made ? 'Make new ones' : 'Make addresses'}
        </Button>
      </div>
    </section>
  )
}
