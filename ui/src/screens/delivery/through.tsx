import { useState } from 'react'
import { Link } from 'react-router'
import { XIcon } from '@phosphor-icons/react'
import { post, put, told } from '../../api/client'
import { entryName } from '../../api/delivery'
import type { By, Exception } from '../../api/gen/delivery'
import type { EntryView } from '../../api/desk'
import { refresh, useSettings } from '../../api/queries'
import { short } from '../../api/times'
import { Button, IconButton } from '../../kit/button'
import { Field } from '../../kit/field'

/** What is meant by what was typed: an address, a domain, or words. */
function meant(text: string, own: string[]): Exception | null {
  const value = text.trim()
  if (!value) return null
  if (/^@?[^\s@]+\.[^\s@]+$/.test(value) && !value.slice(1).includes('@'))
    return { id: '', by: 'domain', value: value.replace(/^@/, ''), days: 0 }
  if (value.includes('@') && !/\s/.test(value))
    return { id: '', by: own.includes(value.toLowerCase()) ? 'own' : 'sender', value, days: 0 }
  return { id: '', by: 'words', value, days: 0 }
}
const means: Partial<Record<By, string>> = {
  sender: 'mail from this address',
  domain: 'mail from everybody there',
  own: 'mail to this address of yours',
  words: 'mail with these words in its subject or text',
}

/** What comes in at once, whatever the plan says. */
export function Through({ entries }: { entries: EntryView[] }) {
  const own = useSettings().data?.addresses ?? []
  const [adding, setAdding] = useState(false)
  const [text, setText] = useState('')
  const [days, setDays] = useState(14)
  const [wrong, setWrong] = useState('')
  const send = (what: Promise<unknown>) =>
    what
      .then(() => {
        refresh(['delivery'])
        setText('')
        setWrong('')
      })
      .catch((e: unknown) => setWrong(told(e)))
  const add = (e: Exception | null) => {
    if (e) void send(put('/delivery/through', e))
  }
  const entry = meant(text, own)
  const has = (by: By) => entries.some((e) => e.by === by)
  return (
    <section aria-labelledby="through">
      <h2 id="through" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
        Comes in at once, whatever the plan
      </h2>
      <ul className="grid gap-1">
        {entries.map((e) => (
          <li key={e.id} className="group flex flex-wrap items-baseline gap-x-2 border-b border-sand-200 pb-1">
            <span className="max-w-full truncate rounded-[5px] bg-tide-100 px-1.5 py-px text-[12px] font-[550] text-tide-800">
              {entryName(e)}
            </span>
            <span
              className="min-w-0 flex-1 truncate text-[12px] text-ink-500"
              title={e.lately.map((l) => `${l.from}: ${l.subject}, ${short(l.at)}`).join('\n')}
            >
              {e.lately.length ? (
                <Link className="hover:underline" to={'/c/' + e.lately[0].conversation}>
                  lately {e.lately[0].from}: {e.lately[0].subject}, {short(e.lately[0].at)}
                </Link>
              ) : (
                'let nothing in yet'
              )}
            </span>
            <IconButton
              label={`Let ${entryName(e)} wait again`}
              onClick={() => void send(post(`/delivery/through/${e.id}/drop`))}
            >
              <XIcon size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
        {!entries.length && (
          <li className="text-ink-500">Nothing yet. People you name here reach you while the rest waits.</li>
        )}
      </ul>
      {adding ? (
        <form
          className="mt-2"
          onSubmit={(e) => {
            e.preventDefault()
            add(entry)
          }}
        >
          <div className="flex items-end gap-2">
            <Field
              id="through-text"
              className="min-w-0 flex-1"
              label="An address, a @domain, one of your own addresses, or words"
              value={text}
              wrong={wrong}
              autoFocus
              autoComplete="off"
              placeholder="customs"
              onChange={(e) => {
                setText(e.target.value)
                setWrong('')
              }}
            />
            <Button type="submit" disabled={!entry}>
              Add
            </Button>
          </div>
          {entry && (
            <p className="mt-1 text-[12.5px] font-semibold text-accent" data-testid="through-means">
              {means[entry.by]}
            </p>
          )}
          <div className="mt-2 flex flex-wrap items-center gap-1.5 text-[12.5px]">
            {!has('waited') && (
              <Button size="small" ground="quiet" onClick={() => add({ id: '', by: 'waited', value: '', days: 0 })}>
                answers to what I asked
              </Button>
            )}
            {!has('written') && (
              <span>
                <Button size="small" ground="quiet" onClick={() => add({ id: '', by: 'written', value: '', days })}>
                  people I wrote to in the last
                </Button>{' '}
                <Field
                  type="number"
                  min={1}
                  max={365}
                  label="days"
                  hideLabel
                  small
                  className="inline-block w-16"
                  value={days}
                  onChange={(e) => setDays(Number(e.target.value))}
                />{' '}
                days
              </span>
            )}
          </div>
        </form>
      ) : (
        <Button size="small" ground="quiet" className="mt-2" onClick={() => setAdding(true)}>
          + add
        </Button>
      )}
    </section>
  )
}
