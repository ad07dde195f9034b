import { useState } from 'react'
import type { EventDraft } from '../../api/desk'
import type { Event as CalendarEvent } from '../../api/gen/calendar'
import type { Moment } from '../../api/gen/when'
import { useTimes } from '../../api/queries'
import { due as dueText, long, wholeDay } from '../../api/times'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { ToggleGroup } from '../../kit/choose'
import { Field, TextArea } from '../../kit/field'
import { Notice } from '../../kit/notice'
import { type Chosen, dayOf, PhraseField } from '../../kit/phrase'
import { Select } from '../../kit/select'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences'

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
  { n: -1, name: sentences.noReminder },
  { n: 0, name: sentences.whenItStarts },
  { n: 15, name: sentences.one5MinBefore },
  { n: 60, name: sentences.oneHBefore },
  { n: 1440, name: sentences.oneDayBefore },
]

/** An event: the times the text names are offered, all else can be said. */
export function EventTray({ id, change, start: given, inInbox, onPut, onClose }: Props) {
  const { data } = useTimes(change ? undefined : id)
  const [title, setTitle] = useState<string | undefined>(change?.title)
  const [place, setPlace] = useState<string | undefined>(change?.place)
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
    if (!from?.at) return setWrong(sentences.sayWhenItStarts)
    onPut({
      title: title ?? data?.title ?? '',
      start: from,
      end: e?.end ?? ends,
      place: place ?? data?.place ?? '',
      notes,
      remind,
      guests: invited.map((a) => known.find((g) => g.address === a) ?? { address: a }),
      rule: change?.rule,
      was: change?.rule ? change.start : undefined,
      conversation: id ?? 0,
      archive: leaves,
    })
  }
  if (!change && id && !data)
    return <Tray label={sentences.calendar} testid="event-tray" layout="three" busy onClose={onClose} />
  return (
    <Tray
      label={change ? sentences.changeTheEvent : sentences.calendar}
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
          label={sentences.whatIsIt}
          value={title ?? data?.title ?? ''}
          maxLength={400}
          autoComplete="off"
          onChange={(e) => setTitle(e.target.value)}
        />
        <Field
          id="event-place"
          label={sentences.whereOptional}
          value={place ?? data?.place ?? ''}
          maxLength={300}
          autoComplete="off"
          onChange={(e) => setPlace(e.target.value)}
        />
      </div>
      <div>
        {!!data?.times.length && (
          <>
            <p className="mb-1 text-[11.5px] font-[650] text-ink-500">{sentences.foundInTheText}</p>
            <ToggleGroup
              label={sentences.timesFound}
              className="mb-2"
              value={start ? -1 : (picked ?? 0)}
              none={-1}
              options={data.times
                .slice(0, 6)
                .map((t, i) => ({ id: i, name: t.means, note: `“${t.text}”`, data: { 'data-time': String(i) } }))}
              onChange={(i) => {
                setPicked(i < 0 ? 0 : i)
                setStart(null)
                setEnd(null)
              }}
            />
          </>
        )}
        <div className="grid grid-cols-2 gap-2">
          <PhraseField
            id="event-start"
            label={begins && !start ? sentences.starts(at(begins)) : sentences.startsTitle}
            placeholder={sentences.thu1400}
            way="either"
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
            label={ends && !end ? sentences.ends(at(ends)) : sentences.endsAnHourLater}
            placeholder={sentences.thu1530}
            whole
            optional
            onChosen={setEnd}
            onAccept={(c) => put({ end: c.moment })}
          />
        </div>
        {wrong && <Notice>{wrong}</Notice>}
        {invited.length > 0 && (
          <p className="mt-1 flex flex-wrap items-center gap-1.5 text-[12px] text-ink-500">
            {sentences.with}{' '}
            {invited.map((a) => (
              <Button
                key={a}
                size="small"
                quiet
                className="max-w-56 truncate"
                title={sentences.remove(a)}
                onClick={() => setGuests(invited.filter((g) => g !== a))}
              >
                {known.find((g) => g.address === a)?.name || a} ×
              </Button>
            ))}
          </p>
        )}
      </div>
      <div className="flex flex-col gap-2">
        <Select
          label={sentences.reminder}
          value={remind}
          options={
            reminders.some((r) => r.n === remind)
              ? reminders.map((r) => ({ id: r.n, name: r.name }))
              : [
                  ...reminders.map((r) => ({ id: r.n, name: r.name })),
                  { id: remind, name: sentences.minBefore(remind) },
                ]
          }
          onChange={setRemind}
        />
        <TextArea
          label={sentences.notes}
          value={notes}
          rows={2}
          maxLength={8000}
          onChange={(e) => setNotes(e.target.value)}
        />
        <div className="flex items-center justify-between gap-2">
          {inInbox ? (
            <Checkbox checked={leaves} onChange={(on) => setLeaves(on)}>
              {sentences.theMailLeavesThe}
            </Checkbox>
          ) : (
            <span />
          )}
          <Button type="submit">{change ? sentences.change : sentences.save}</Button>
        </div>
      </div>
    </Tray>
  )
}
