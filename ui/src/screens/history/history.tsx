import { Loading } from '../../kit/loading'
import { Heading } from '../../kit/heading'
import { RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { HistoryLine } from '../../api/desk'
import { useConversation, useHistory } from '../../api/queries'
import { clock, date, dayKey, daysAway, now, plural, addDays, startOf } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { Chip, Empty, Failed } from '../../kit/kit'
import { useDesk } from '../../frame/desk'

const verbs: Record<string, string> = {
  bin: 'binned',
  archive: 'archived',
  inbox: 'brought back',
  snooze: 'snoozed',
  star: 'starred',
  unstar: 'took the star from',
  unread: 'marked unread',
  read: 'marked read',
  leave: 'left undecided',
  rename: 'renamed',
  note: 'wrote a note on',
  label: 'labelled',
  'drop-label': 'deleted the label',
  combo: 'ran a combo on',
  here: 'came to',
  'drop-place': 'deleted the place',
  rest: 'archived the rest:',
  'fresh-start': 'made a fresh start:',
  'follow-up': 'made a follow-up:',
  change: 'changed',
  finish: 'finished',
  reopen: 'opened again',
  drop: 'cancelled',
  'put-off': 'put off',
  stage: 'moved on the board:',
  wait: 'waits for an answer:',
  'close-day': 'closed the day on',
  'wait-ended': 'ended a waiting:',
  event: 'put into the calendar:',
  'event-change': 'changed in the calendar:',
  'event-drop': 'took out of the calendar:',
  invitation: 'answered the invitation',
  'remind-event': 'reminded of',
  'calendar-in': 'read a calendar file.',
  deliver: 'let in, with',
  'let-in': 'looked early and let in',
  'let-all-in': 'let in before its time',
  peek: 'searched what is held for',
  hold: 'held',
  open: 'opened the gate for',
  'end-hand': 'ended the hold:',
  plan: 'changed the plan:',
  'auto-answer': 'answered by itself, to',
  receipt: 'said that it was opened, to',
  'leave-list': 'went to leave a list.',
  send: 'sent',
  undelivered: 'reports:',
  junk: 'marked as junk',
  return: 'brought back, as asked,',
  remind: 'reminded of',
  arrive: 'came in:',
  import: 'imported',
  join: 'joined',
  part: 'parted',
  elsewhere: 'did, and Ebbe followed:',
  'put-back': 'brought back',
  'drop-restored': 'dropped, after restoring from a backup,',
  empty: 'removed for good, from',
  'take-back': 'took back:',
  again: 'did again:',
}
const actors: Record<string, string> = { clock: 'The clock', mail: 'Mail', server: 'Elsewhere' }
const byWhom = [
  { id: '', name: 'everything' },
  { id: 'person', name: 'me' },
  { id: 'clock', name: 'the clock' },
  { id: 'mail', name: 'mail' },
  { id: 'server', name: 'elsewhere' },
]
const work = new Set(['change', 'reopen', 'drop', 'put-off', 'stage', 'wait', 'close-day'])
const named = new Set([
  'event',
  'event-change',
  'event-drop',
  'invitation',
  'follow-up',
  'finish',
  'take-back',
  'again',
  'drop-label',
  'drop-place',
  'here',
  'peek',
])
const said = new Set([
  'drop-restored',
  'undelivered',
  'receipt',
  'leave-list',
  'calendar-in',
  'wait-ended',
  'hold',
  'open',
  'end-hand',
  'plan',
  'auto-answer',
])

/** Who decided what, when; newest first, with any one step to be taken back. */
export function HistoryScreen() {
  const [params, setParams] = useSearchParams()
  const conversation = Number(params.get('conversation')) || 0
  const [actor, setActor] = useState('')
  const [day, setDay] = useState('')
  const end = day ? startOf(addDays(day, 1)) : 0
  const list = useHistory({ actor, until: end, conversation })
  const about = useConversation(conversation || undefined).data?.slip
  const { takeBack, notice } = useDesk()
  if (list.error) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what="Loading the history" />
  const lines = list.data.pages.flatMap((p) => p.lines)
  const days: { key: string; at: number; lines: HistoryLine[] }[] = []
  for (const l of lines) {
    const key = dayKey(l.at)
    if (days.at(-1)?.key !== key) days.push({ key, at: l.at, lines: [] })
    days.at(-1)!.lines.push(l)
  }
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <div className="mb-2 flex items-center justify-between gap-4">
          <Heading>History</Heading>
          <Button quiet onClick={() => void takeBack()}>
            Take back the last decision
          </Button>
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <RadioGroup label="By whom" look="plain" value={actor} options={byWhom} onChange={setActor} />
          <Field
            type="date"
            label="up to the day"
            small
            className="flex items-baseline gap-2"
            value={day}
            max={dayKey(now())}
            onChange={(e) => setDay(e.target.value)}
          />
          {conversation > 0 && (
            <span className="flex items-center gap-2 text-[12.5px]">
              only “{about ? about.title || about.subject : '…'}”{' '}
              <TextButton onClick={() => setParams({})}>show all</TextButton>
            </span>
          )}
        </div>
        {notice && (
          <p
            role={notice.wrong ? 'alert' : 'status'}
            data-testid="notice"
            className={`mt-3 rounded-[9px] px-3.5 py-2 ${notice.wrong ? 'bg-coral-100 text-coral-600' : 'bg-tide-50'}`}
          >
            {notice.text}
          </p>
        )}
        {!lines.length && (
          <Empty title="Nothing of that kind has happened">
            All that you, the clock and incoming mail do is written down here, and yours can be taken back.
          </Empty>
        )}
        {days.map((d) => (
          <section key={d.key} aria-label={date(d.at)} className="mt-4">
            <h2 className="sticky top-0 border-b border-sand-200 bg-sand-0 py-1.5 text-[12px] text-accent">
              {daysAway(d.at) === 0 ? 'Today' : daysAway(d.at) === -1 ? 'Yesterday' : date(d.at)}
            </h2>
            <ol>
              {d.lines.map((l) => (
                <Line key={l.id} l={l} back={() => void takeBack(l.id)} />
              ))}
            </ol>
          </section>
        ))}
        {list.hasNextPage && (
          <div className="pt-4 text-center">
            <Button quiet onClick={() => void list.fetchNextPage()}>
              Earlier
            </Button>
          </div>
        )}
      </div>
    </div>
  )
}

function Line({ l, back }: { l: HistoryLine; back: () => void }) {
  const about =
    l.kind === 'join' && l.actor === 'mail' ? (
      l.text
    ) : l.kind === 'empty' ? (
      `the bin and junk of “${l.text}”: ${plural(l.count, 'message')}`
    ) : l.kind === 'import' && !l.text ? (
      plural(l.count, 'message')
    ) : l.kind === 'deliver' ? (
      `${l.text}: ${plural(l.count, 'conversation')}`
    ) : l.kind === 'let-all-in' ? (
      plural(l.count, 'conversation')
    ) : said.has(l.kind) ? (
      l.text
    ) : l.count > 1 && work.has(l.kind) ? (
      plural(l.count, 'follow-up')
    ) : l.count > 1 && !named.has(l.kind) ? (
      plural(l.count, 'conversation')
    ) : l.conversation ? (
      <Link to={'/c/' + l.conversation} className="hover:underline">
        “{l.text || '(no subject)'}”
      </Link>
    ) : (
      `“${l.text}”`
    )
  return (
    <li className="group flex items-start gap-3 border-b border-sand-100 py-1.5" data-entry={l.id}>
      <span className="w-14 shrink-0 text-right text-[12px] leading-5 text-ink-500">{clock(l.at)}</span>
      <span className={`min-w-0 flex-1 break-words ${l.takenBack ? 'text-ink-500' : ''}`}>
        <b className="font-semibold">{actors[l.actor] ?? l.who.split(' ')[0]}</b> {verbs[l.kind] ?? l.kind} {about}
      </span>
      {l.takenBack && <Chip>{l.kind === 'take-back' ? 'done again' : 'taken back'}</Chip>}
      {l.step && !l.takenBack && (
        <TextButton
          tone="faint"
          small
          className="shrink-0"
          aria-label={`Take back: ${verbs[l.kind] ?? l.kind} ${l.text}`}
          onClick={back}
        >
          take back
        </TextButton>
      )}
    </li>
  )
}
