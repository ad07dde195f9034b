import { useState } from 'react'
import { Tray } from '../../kit/tray'
import type { EventDraft } from '../../api/desk'
import type { Event as CalendarEvent } from '../../api/gen/calendar'
import type { Moment } from '../../api/gen/when'
import { useTimes } from '../../api/queries'
import { due as dueText, long, wholeDay } from '../../api/times'
import { Checkbox } from '../../kit/checkbox'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { PhraseField, dayOf, type Chosen } from '../../kit/phrase'

interface Props {
  id?: number // of the conversation it is made from
  change?: CalendarEvent
  start?: Moment
  inInbox?: boolean
  onPut: (e: EventDraft) => void
  onClose: () => void
}

const at = (m: Moment) => (wholeDay(m) ? dueText(m) : long(m.at))
const reminders = [
  { n: -1, name: 'no reminder' },
  { n: 0, name: 'when it starts' },
  { n: 15, name: '15 min before' },
  { n: 60, name: '1 h before' },
  { n: 1440, name: '1 day before' },
]

/** An event: the times the text names are offered, all else can be said. */
export function EventTray({ id, change, start: given, inInbox, onPut, onClose }: Props) {
  const { data } = useTimes(change ? undefined : id)
  const [title, setTitle] = useState<string | undefined>(change?.title)
  const [place, setPlace] = useState(change?.place ?? '')
  const [notes, setNotes] = useState(change?.notes ?? '')
  const [guests, setGuests] = useState<string[] | undefined>(
    change ? (change.guests ?? []).map((g) => g.address) : undefined,
  )
  const [remind, setRemind] = useState(change?.remind ?? 15)
  const [picked, setPicked] = useState<number>()
  const [start, setStart] = useState<Chosen | null>(null)
  const [end, setEnd] = useState<Chosen | null>(null)
  const [leaves, setLeaves] = useState(!!inInbox)
  const [wrong, setWrong] = useState('')
  const offer = data?.times[picked ?? 0]
  const begins = start ? (start.timed ? start.moment : dayOf(start.moment)) : (change?.start ?? offer?.start ?? given)
  const ends = end
    ? end.moment
    : start
      ? undefined
      : change && begins === change.start
        ? change.end
        : offer && begins === offer.start && offer.end.at
          ? offer.end
          : undefined
  const invited = guests ?? data?.guests.map((g) => g.address) ?? []
  const known = change?.guests ?? data?.guests ?? []
  const put = (e?: { start?: Moment; end?: Moment }) => {
    const from = e?.start ?? begins
    if (!from?.at) return setWrong('Say when it starts.')
    onPut({
      title: title ?? data?.title ?? '',
      start: from,
      end: e?.end ?? ends,
      place,
      notes,
      remind,
      guests: invited.map((a) => known.find((g) => g.address === a) ?? { address: a }),
      rule: change?.rule,
      conversation: id ?? 0,
      archive: leaves,
    })
  }
  if (!change && id && !data) return <Tray label="Calendar" testid="event-tray" layout="three" busy onClose={onClose} />
  return (
    <Tray
      label={change ? 'Change the event' : 'Calendar'}
      testid="event-tray"
      layout="three"
      onClose={onClose}
      onSubmit={() => {
        put()
      }}
    >
      <div className="space-y-2">
        <Field
          id="event-title"
          label="What is it?"
          value={title ?? data?.title ?? ''}
          maxLength={400}
          autoComplete="off"
          onChange={(e) => setTitle(e.target.value)}
        />
        <Field
          id="event-place"
          label="Where? (optional)"
          value={place}
          maxLength={300}
          autoComplete="off"
          onChange={(e) => setPlace(e.target.value)}
        />
      </div>
      <div>
        {!!data?.times.length && (
          <>
            <p className="mb-1 text-[11.5px] font-[650] text-ink-500">Found in the text</p>
            <ul className="mb-2 flex flex-wrap gap-1.5" aria-label="Times found">
              {data.times.slice(0, 6).map((t, i) => (
                <li key={i}>
                  <button
                    type="button"
                    data-time={i}
                    aria-pressed={!start && (picked ?? 0) === i}
                    title={`“${t.text}”`}
                    onClick={() => {
                      setPicked(i)
                      setStart(null)
                      setEnd(null)
                    }}
                    className={`rounded-[7px] px-2 py-1 text-left text-[12px] ${!start && (picked ?? 0) === i ? 'bg-fill font-semibold text-white' : 'bg-sand-100 hover:bg-tide-100'}`}
                  >
                    {t.means}
                  </button>
                </li>
              ))}
            </ul>
          </>
        )}
        <div className="grid grid-cols-2 gap-2">
          <PhraseField
            id="event-start"
            label={begins && !start ? `Starts ${at(begins)}` : 'Starts'}
            placeholder="thu 14:00"
            autoFocus
            whole
            optional
            onChosen={(c) => {
              setStart(c)
              setWrong('')
            }}
            onAccept={(c) => put({ start: c.timed ? c.moment : dayOf(c.moment), end: end?.moment })}
          />
          <PhraseField
            id="event-end"
            label={ends && !end ? `Ends ${at(ends)}` : 'Ends (an hour later)'}
            placeholder="thu 15:30"
            whole
            optional
            onChosen={setEnd}
            onAccept={(c) => put({ end: c.moment })}
          />
        </div>
        {wrong && (
          <p role="alert" className="text-[12.5px] text-coral-600">
            {wrong}
          </p>
        )}
        {invited.length > 0 && (
          <p className="mt-1 flex flex-wrap items-center gap-1.5 text-[12px] text-ink-500">
            With{' '}
            {invited.map((a) => (
              <button
                type="button"
                key={a}
                title={`Leave ${a} out`}
                onClick={() => setGuests(invited.filter((g) => g !== a))}
                className="max-w-56 truncate rounded-[6px] bg-plum-100 px-1.5 py-px text-plum-600"
              >
                {known.find((g) => g.address === a)?.name || a} ×
              </button>
            ))}
          </p>
        )}
      </div>
      <div className="flex flex-col gap-2">
        <label className="text-[11.5px] font-[650] text-ink-500">
          Reminder
          <select
            value={remind}
            onChange={(e) => setRemind(Number(e.target.value))}
            className="mt-1 block w-full rounded-[9px] border border-sand-300 bg-sand-0 px-2 py-1.5 text-[13px] font-normal text-ink-900"
          >
            {reminders.map((r) => (
              <option key={r.n} value={r.n}>
                {r.name}
              </option>
            ))}
            {!reminders.some((r) => r.n === remind) && <option value={remind}>{remind} min before</option>}
          </select>
        </label>
        <label className="text-[11.5px] font-[650] text-ink-500">
          Notes
          <textarea
            value={notes}
            rows={2}
            maxLength={8000}
            onChange={(e) => setNotes(e.target.value)}
            className="mt-1 block w-full resize-none rounded-[9px] border border-sand-300 bg-sand-0 px-2 py-1.5 text-[13px] font-normal text-ink-900"
          />
        </label>
        <div className="flex items-center justify-between gap-2">
          {inInbox ? (
            <Checkbox checked={leaves} onChange={(on) => setLeaves(on)}>
              the mail leaves the inbox
            </Checkbox>
          ) : (
            <span />
          )}
          <Button type="submit">{change ? 'Change' : 'Save'}</Button>
        </div>
      </div>
    </Tray>
  )
}
