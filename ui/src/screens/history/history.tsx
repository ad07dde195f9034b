import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { History, HistoryLine } from '../../api/desk'
import { useConversation } from '../../api/queries'
import { addDays, clock, date, dayKey, daysAway, now, plural, startOf } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Earlier } from '../../kit/earlier'
import { Field } from '../../kit/field'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { sentences } from './sentences'
import { actors, verbs } from './verbs'

const useHistory = (filter: { actor: string; until: number; conversation: number }) =>
  useInfiniteQuery({
    queryKey: ['history', filter],
    queryFn: ({ pageParam }) =>
      get<History>(
        `/history?before=${pageParam}&actor=${filter.actor}&until=${filter.until || ''}&conversation=${filter.conversation || ''}`,
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next || undefined,
    staleTime: 0,
  })

const byWhom = [
  { id: '', name: sentences.everything },
  { id: 'person', name: sentences.me },
  { id: 'clock', name: sentences.theClockShort },
  { id: 'mail', name: sentences.mailShort },
  { id: 'server', name: sentences.elsewhereShort },
  { id: 'rule', name: sentences.rules },
]
const work = new Set(['change', 'reopen', 'drop', 'put-off', 'stage', 'wait', 'close-day'])
const named = new Set([
  'comment',
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
  'change-label',
  'make-place',
  'rename-place',
  'change-rule',
  'never',
  'here',
  'peek',
])
const said = new Set([
  'team',
  'give',
  'choose',
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
  'forward-to',
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
  const { takeBack } = useDesk()
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loadingTheHistory} />
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
          <Heading>{sentences.history}</Heading>
          <Button quiet onClick={() => void takeBack()}>
            {sentences.takeBackTheLast}
          </Button>
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <RadioGroup label={sentences.byWhom} look="plain" value={actor} options={byWhom} onChange={setActor} />
          <Field
            type="date"
            label={sentences.upToTheDay}
            small
            className="flex items-baseline gap-2 whitespace-nowrap"
            value={day}
            max={dayKey(now())}
            onChange={(e) => setDay(e.target.value)}
          />
          {conversation > 0 && (
            <span className="flex items-center gap-2 text-[12.5px]">
              {sentences.only(about ? about.title || about.subject : '…')}{' '}
              <TextButton onClick={() => setParams({})}>{sentences.showAll}</TextButton>
            </span>
          )}
        </div>
        {!lines.length && <Empty title={sentences.nothingOfThatKind}>{sentences.allThatYouThe}</Empty>}
        {days.map((d) => (
          <section key={d.key} aria-label={date(d.at)} className="mt-4">
            <h2 className="sticky top-0 border-b border-sand-200 bg-sand-0 py-1.5 text-[12px] text-accent">
              {daysAway(d.at) === 0 ? sentences.today : daysAway(d.at) === -1 ? sentences.yesterday : date(d.at)}
            </h2>
            <ol>
              {d.lines.map((l) => (
                <Line key={l.id} l={l} back={() => void takeBack(l.id)} />
              ))}
            </ol>
          </section>
        ))}
        <Earlier list={list}>{sentences.earlier}</Earlier>
      </div>
    </div>
  )
}

function Line({ l, back }: { l: HistoryLine; back: () => void }) {
  const about =
    l.kind === 'join' && l.actor === 'mail' ? (
      l.text
    ) : l.kind === 'empty' ? (
      sentences.theBinAndJunk(l.text, plural(l.count, sentences.message))
    ) : l.kind === 'import' && !l.text ? (
      plural(l.count, sentences.message)
    ) : l.kind === 'deliver' ? (
      `${l.text}: ${plural(l.count, sentences.conversation)}`
    ) : l.kind === 'let-all-in' ? (
      plural(l.count, sentences.conversation)
    ) : said.has(l.kind) ? (
      l.text
    ) : l.count > 1 && work.has(l.kind) ? (
      plural(l.count, sentences.followUp)
    ) : l.count > 1 && !named.has(l.kind) ? (
      plural(l.count, sentences.conversation)
    ) : l.conversation ? (
      <Link to={'/c/' + l.conversation} className="hover:underline">
        “{l.text || sentences.noSubject}”
      </Link>
    ) : (
      `“${l.text}”`
    )
  return (
    <li className="group flex items-start gap-3 border-b border-sand-100 py-1.5" data-entry={l.id}>
      <span className="w-14 shrink-0 text-right text-[12px] leading-5 text-ink-500">{clock(l.at)}</span>
      <span className={`min-w-0 flex-1 break-words ${l.takenBack ? 'text-ink-500' : ''}`}>
        <b className="font-semibold">{actors[l.actor] ?? (l.who.split(' ')[0] || sentences.formerMember)}</b>{' '}
        {verbs[l.kind] ?? l.kind} {about}
      </span>
      {l.takenBack && <Chip>{l.kind === 'take-back' ? sentences.doneAgain : sentences.takenBack}</Chip>}
      {l.step && !l.takenBack && (
        <TextButton
          tone="faint"
          small
          className="shrink-0"
          aria-label={sentences.takeBack(verbs[l.kind] ?? l.kind, l.text)}
          onClick={back}
        >
          {sentences.takeBackShort}
        </TextButton>
      )}
    </li>
  )
}
