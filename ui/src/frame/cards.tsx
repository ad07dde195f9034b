import { BellIcon, CalendarDotsIcon, MoonIcon, PencilLineIcon } from '@phosphor-icons/react'
import { type ReactNode, Suspense, useEffect, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { post } from '../api/client'
import type { FollowUpView } from '../api/desk'
import type { Event as CalendarEvent } from '../api/gen/calendar'
import type { Moment } from '../api/gen/when'
import type { Kept } from '../api/kept'
import { refresh, useCards } from '../api/queries'
import { due, long, now, plural, span } from '../api/times'
import { Button, Opener } from '../kit/button'
import { cx } from '../kit/cx'
import { Chip } from '../kit/kit'
import { isDraft } from '../screens/write/drafts'
import { useDesk } from './desk'
import { useKept } from './kept'
import { sentences } from './sentences'
import { RemindAgain } from './trays'

/** What has come up by itself and waits for an answer, above the screen in every open tab: it takes room of its own and lies over nothing. */
export function Cards() {
  const { data } = useCards()
  const { act } = useDesk()
  const navigate = useNavigate()
  const at = useLocation().pathname
  const [open, setOpen] = useState(false)
  const kept = useKept()
  const [unfinished, setUnfinished] = useState(() => unfinishedIn(kept))
  useEffect(
    () => kept.whenFinished(() => setUnfinished((all) => all.filter((t) => kept.read(t.name) !== undefined))),
    [kept],
  )
  if (!data) return null
  const close = at !== '/close-day' ? (data.close ?? 0) : 0
  const cards = [
    ...unfinished.map((t) => (
      <Card
        key={t.name}
        testid="unfinished"
        icon={<PencilLineIcon size={17} className="text-accent" aria-hidden />}
        title={`${sentences.unfinished}: ${t.what}`}
        facts={sentences.wasTyped(long(t.at))}
      >
        <Button
          size="small"
          onClick={() => {
            setUnfinished((all) => all.filter((o) => o !== t))
            navigate(t.path)
          }}
        >
          {sentences.goOn}
        </Button>
        <Button
          size="small"
          quiet
          onClick={() => {
            kept.forget(t.name)
            setUnfinished((all) => all.filter((o) => o !== t))
          }}
        >
          {sentences.forget}
        </Button>
      </Card>
    )),
    close > 0 && (
      <Card
        key="close"
        testid="close-card"
        icon={<MoonIcon size={17} className="text-accent" aria-hidden />}
        title={sentences.leftForToday(plural(close, sentences.followUp))}
      >
        <Button size="small" onClick={() => navigate('/close-day')}>
          {sentences.closeTheDay}
        </Button>
        <Button size="small" quiet onClick={() => void post('/follow-ups/closed').then(() => refresh(['cards']))}>
          {sentences.notToday}
        </Button>
      </Card>
    ),
    data.sum && (
      <Card key="sum" testid="cards-sum" icon={bell} title={data.sum}>
        <Button size="small" onClick={() => navigate('/one-by-one')}>
          {sentences.oneByOne}
        </Button>
        <Button size="small" quiet onClick={() => void act('/cards/put-away')}>
          {sentences.putAllAway}
        </Button>
      </Card>
    ),
    ...data.events.filter((e) => e.end.at > now()).map((e) => <EventCard key={e.uid} e={e} />),
    ...data.cards.map((c) => <Reminder key={c.uid} card={c} />),
  ].filter(Boolean)
  const count = cards.length + (data.sum ? 0 : data.count - data.cards.length)
  if (!cards.length) return null
  return (
    <section
      aria-label={sentences.reminders}
      className="no-print max-h-[40%] shrink-0 overflow-y-auto border-b border-sand-300 bg-sand-0"
    >
      {open ? cards : cards.slice(0, 1)}
      {!open && cards.length === AT_ONCE && <div className="max-[700px]:hidden">{cards[1]}</div>}
      {cards.length > 1 && (
        <Opener
          open={open}
          className={cx('px-4 pb-1.5 text-[12px] text-ink-500', cards.length <= AT_ONCE && 'min-[701px]:hidden')}
          onClick={() => setOpen(!open)}
        >
          {open
            ? sentences.showTheFirstOnly
            : sentences.and(plural(count - 1, sentences.moreReminder, sentences.moreReminders))}
        </Opener>
      )}
      {open && count > cards.length && (
        <p className="px-4 pb-2 text-[12px] text-ink-500">{sentences.theOtherAreIn(count - cards.length)}</p>
      )}
    </section>
  )
}

/** What was typed before this page was loaded, and has not been finished; drafts are saved by themselves. */
const unfinishedIn = (kept: Kept) => kept.unfinished().filter((t) => !isDraft(t.name) && now() - t.at < A_DAY)

const A_DAY = 86_400_000
const AT_ONCE = 2 // that many stand there without being asked for; on a narrow screen one
const bell = <BellIcon size={17} className="text-amber-600" aria-hidden />

/** One line: what it is, what is known of it, and the answers to it. */
function Card({
  testid,
  icon,
  title,
  facts,
  children,
}: {
  testid: string
  icon: ReactNode
  title: string
  facts?: ReactNode
  children: ReactNode
}) {
  return (
    <article
      role="alert"
      data-testid={testid}
      className="ebb flex flex-wrap items-center gap-x-2.5 gap-y-1 px-4 py-1.5 max-[700px]:px-3"
    >
      {icon}
      <b className="min-w-0 font-semibold break-words">{title}</b>
      {facts && <span className="flex min-w-0 flex-wrap items-center gap-1.5 text-[12px] text-ink-500">{facts}</span>}
      <span className="flex-1" />
      <span className="flex flex-wrap gap-1.5">{children}</span>
    </article>
  )
}

function EventCard({ e }: { e: CalendarEvent }) {
  const { act } = useDesk()
  const navigate = useNavigate()
  const away = () => void act('/calendar/steps', { uid: e.uid, kind: 'seen' })
  return (
    <Card
      testid="event-card"
      icon={<CalendarDotsIcon size={17} className="text-accent" aria-hidden />}
      title={e.title}
      facts={
        <>
          {long(e.start.at)}
          {e.place && `, ${e.place}`}
          {e.start.at > now() && sentences.in(span(e.start.at - now()))}
        </>
      }
    >
      <Button size="small" onClick={away}>
        {sentences.putAway}
      </Button>
      {e.conversation > 0 && (
        <Button
          size="small"
          quiet
          onClick={() => {
            away()
            navigate('/c/' + e.conversation)
          }}
        >
          {sentences.open}
        </Button>
      )}
    </Card>
  )
}

function Reminder({ card }: { card: FollowUpView }) {
  const { step } = useDesk()
  const navigate = useNavigate()
  const [again, setAgain] = useState(false)
  const late = card.due.at > 0 && card.due.at < now()
  const remind = (at: Moment) => void step(card.uid, { kind: 'seen', remind: at })
  const answered = (card.waits.ended ?? 0) > 0 && now() - card.waits.ended! < 86_400_000
  return (
    <Card
      testid="card"
      icon={bell}
      title={card.title}
      facts={
        <>
          {(card.waits.since ?? 0) > 0 && (
            <Chip tone="with">
              {(!card.waits.ask.at && card.asking) || sentences.timeToAskAgain(card.with.name || card.with.address)}
            </Chip>
          )}
          {answered && <Chip tone="tide">{sentences.hasWritten(card.with.name || card.with.address)}</Chip>}
          {card.due.at > 0 && (
            <Chip tone={late ? 'late' : 'due'}>
              {late ? sentences.lateWasDue : sentences.due}
              {due(card.due)}
            </Chip>
          )}
          {card.from && <span className="truncate">{card.from}</span>}
        </>
      }
    >
      {again ? (
        <Suspense fallback={null}>
          <RemindAgain uid={card.uid} remind={remind} cancel={() => setAgain(false)} />
        </Suspense>
      ) : (
        <>
          <Button size="small" onClick={() => void step(card.uid, { kind: 'finish' })}>
            {sentences.finish}
          </Button>
          <Button
            size="small"
            quiet
            onClick={() => {
              void step(card.uid, { kind: 'seen' })
              navigate('/follow-ups/' + encodeURIComponent(card.uid))
            }}
          >
            {sentences.open}
          </Button>
          {answered && (
            <Button size="small" quiet onClick={() => void step(card.uid, { kind: 'keep-waiting' })}>
              {sentences.keepWaiting}
            </Button>
          )}
          <Button size="small" quiet onClick={() => setAgain(true)}>
            {sentences.remindAgain}
          </Button>
          <Button size="small" quiet onClick={() => void step(card.uid, { kind: 'seen' })}>
            {sentences.putAway}
          </Button>
        </>
      )}
    </Card>
  )
}
