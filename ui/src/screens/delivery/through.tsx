import { XIcon } from '@phosphor-icons/react'
import { useState } from 'react'
import { Link } from 'react-router'
import { post, put, told } from '../../api/client'
import { entryName } from '../../api/coming'
import type { EntryView } from '../../api/desk'
import type { By, Exception } from '../../api/gen/delivery'
import { refresh, useSettings } from '../../api/queries'
import { short } from '../../api/times'
import { Keeps, useKept } from '../../frame/kept'
import { Button, IconButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { sentences } from './sentences'

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
  sender: sentences.mailFromThisAddress,
  domain: sentences.mailFromEverybodyThere,
  own: sentences.mailToThisAddress,
  words: sentences.mailWithTheseWords,
}

/** What comes in at once, whatever the plan says. */
export function Through({ entries }: { entries: EntryView[] }) {
  const own = useSettings().data?.addresses ?? []
  const kept = useKept()
  const [adding, setAdding] = useState(false)
  const [text, setText] = useState('')
  const [days, setDays] = useState(14)
  const [wrong, setWrong] = useState('')
  const send = (what: Promise<unknown>) =>
    what
      .then(() => {
        refresh(['delivery'])
        setText('')
        kept.forget('through')
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
        {sentences.comesInAtOnce}
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
                <Link className="block truncate leading-6 hover:underline" to={'/c/' + e.lately[0].conversation}>
                  {sentences.lately(e.lately[0].from, e.lately[0].subject, short(e.lately[0].at))}
                </Link>
              ) : (
                sentences.letNothingInYet
              )}
            </span>
            <IconButton
              label={sentences.letWaitAgain(entryName(e))}
              onClick={() => void send(post(`/delivery/through/${e.id}/drop`))}
            >
              <XIcon size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
        {!entries.length && <li className="text-ink-500">{sentences.nothingYetPeopleYou}</li>}
      </ul>
      {adding ? (
        <Keeps name="through" what={sentences.aLetThrough}>
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
                label={sentences.anAddressADomain}
                value={text}
                wrong={wrong}
                autoFocus
                autoComplete="off"
                placeholder={sentences.customs}
                onChange={(e) => {
                  setText(e.target.value)
                  setWrong('')
                }}
              />
              <Button type="submit" disabled={!entry}>
                {sentences.add}
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
                  {sentences.answersToWhatI}
                </Button>
              )}
              {!has('importance') && (
                <Button
                  size="small"
                  ground="quiet"
                  onClick={() => add({ id: '', by: 'importance', value: '', days: 0 })}
                >
                  {sentences.whatIsVeryImportant}
                </Button>
              )}
              {!has('code') && (
                <Button size="small" ground="quiet" onClick={() => add({ id: '', by: 'code', value: '', days: 0 })}>
                  {sentences.codesForSigning}
                </Button>
              )}
              {!has('written') && (
                <span>
                  <Button size="small" ground="quiet" onClick={() => add({ id: '', by: 'written', value: '', days })}>
                    {sentences.peopleIWroteTo}
                  </Button>{' '}
                  <Field
                    type="number"
                    min={1}
                    max={365}
                    label={sentences.days}
                    hideLabel
                    small
                    className="inline-block w-16"
                    value={days}
                    onChange={(e) => setDays(Number(e.target.value))}
                  />{' '}
                  {sentences.days}
                </span>
              )}
            </div>
          </form>
        </Keeps>
      ) : (
        <Button size="small" ground="quiet" className="mt-2" onClick={() => setAdding(true)}>
          {sentences.addTitle}
        </Button>
      )}
    </section>
  )
}
