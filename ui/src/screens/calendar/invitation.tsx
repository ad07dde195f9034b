import { CalendarDotsIcon } from '@phosphor-icons/react'
import { Link } from 'react-router'
import type { Invitation as Invited } from '../../api/desk'
import type { Event as CalendarEvent } from '../../api/gen/calendar'
import type { Moment } from '../../api/gen/when'
import { clock, date, dayKey, plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Chip } from '../../kit/kit'
import { sentences } from './sentences'

const answers: Record<string, string> = {
  accepted: sentences.youSaidYes,
  tentative: sentences.youSaidPerhaps,
  declined: sentences.youSaidNo,
  'needs-action': sentences.notAnsweredYet,
}
const whole = (m: Moment) => m.local?.length === 10
const span = (e: { start: Moment; end: Moment }) => {
  if (whole(e.start))
    return dayKey(e.start.at) === dayKey(e.end.at)
      ? sentences.theWholeDay(date(e.start.at))
      : sentences.wholeDays(date(e.start.at), date(e.end.at))
  return dayKey(e.start.at) === dayKey(e.end.at)
    ? sentences.withinADay(date(e.start.at), clock(e.start.at), clock(e.end.at))
    : sentences.overDays(date(e.start.at), clock(e.start.at), date(e.end.at), clock(e.end.at))
}

/** An invitation as it stands to the calendar, and the answers to it. */
export function Invitation({ i }: { i: Invited }) {
  const desk = useDesk()
  const e = i.event
  const answer = (said: string) =>
    void desk.act('/calendar/invitations/' + i.message, { uid: e.uid, answer: said, words: '' })
  const mine = i.have?.mine
  const moved = i.news === 'changed' && i.have && (i.have.start.at !== e.start.at || i.have.end.at !== e.end.at)
  const canAnswer =
    (i.method === 'request' || i.method === '') && (i.news === 'new' || i.news === 'changed' || i.news === 'known')
  const guest = i.news === 'answered' ? e.guests?.[0] : undefined
  return (
    <section
      aria-label={sentences.invitation}
      data-testid="invitation"
      data-news={i.news}
      className="mb-4 rounded-[10px] border border-tide-400 bg-tide-50 px-4 py-3"
    >
      <div className="flex flex-wrap items-start gap-x-4 gap-y-1">
        <CalendarDotsIcon size={20} className="mt-0.5 shrink-0 text-accent" aria-hidden />
        <div className="min-w-0 flex-1">
          <h2 className="text-[15px] break-words">{e.title}</h2>
          <p className={`text-[13.5px] ${i.news === 'cancelled' ? 'line-through' : ''}`}>
            <b data-testid="invitation-time">{span(e)}</b>
            {i.repeats && `, ${i.repeats}`}
            {e.place && `, ${e.place}`}
          </p>
          <p className="text-[12.5px] text-ink-500">
            {e.organizer.address && sentences.invites(e.organizer.name || e.organizer.address)}
            {(e.guests?.length ?? 0) > 1 && `, ${plural(e.guests!.length, sentences.guest)}`}
          </p>
        </div>
        <span className="flex flex-wrap gap-1.5">
          {i.news === 'new' && <Chip tone="tide">{i.passed ? sentences.itHasPassed : sentences.notAnsweredYet}</Chip>}
          {i.news === 'changed' && <Chip tone="due">{sentences.changedSinceYouAnswered}</Chip>}
          {i.news === 'known' && mine && <Chip tone={mine === 'accepted' ? 'done' : 'plain'}>{answers[mine]}</Chip>}
          {i.news === 'outdated' && <Chip>{sentences.anOlderVersion}</Chip>}
          {i.news === 'cancelled' && <Chip tone="late">{sentences.calledOff}</Chip>}
        </span>
      </div>
      {moved && (
        <p className="mt-2 text-[12.5px]">
          <b>{sentences.itWas(span(i.have!))}</b> {mine ? sentences.then(answers[mine]) : ''}
        </p>
      )}
      {guest && (
        <p className="mt-2 text-[12.5px]">
          <b>{guest.name || guest.address}</b>{' '}
          {{ accepted: sentences.willCome, declined: sentences.willNotCome, tentative: sentences.mayCome }[
            guest.answer ?? ''
          ] ?? sentences.hasNotDecided}
          .
        </p>
      )}
      {i.doubts.map((d) => (
        <p key={d} className="mt-1 text-[12px] text-amber-600">
          {d}
        </p>
      ))}
      {i.news !== 'answered' && i.news !== 'outdated' && (
        <p className="mt-2 text-[12.5px]" data-testid="around">
          {i.clashes.length > 0 ? (
            <b className="text-coral-600">
              {sentences.itOverlaps(
                i.clashes.map((s) => sentences.clash(s.title, clock(s.from), clock(s.to))).join(', '),
              )}{' '}
            </b>
          ) : (
            sentences.nothingOverlapsIt
          )}
          {i.around.length > i.clashes.length && (
            <>
              {sentences.aroundIt(
                i.around
                  .filter((s) => !i.clashes.some((c) => c.uid === s.uid && c.from === s.from))
                  .slice(0, 4)
                  .map((s) => sentences.neighbour(s.title, clock(s.from), clock(s.to)))
                  .join(', '),
              )}{' '}
            </>
          )}
          <Link to={'/calendar?day=' + dayKey(e.start.at)} className="text-accent underline">
            {sentences.itsWeek}
          </Link>
        </p>
      )}
      <div className="mt-2.5 flex flex-wrap gap-2">
        {canAnswer && e.organizer.address && !i.passed && (
          <>
            <Button quiet={mine === 'accepted' && i.news === 'known'} size="middle" onClick={() => answer('accepted')}>
              {sentences.yes}
            </Button>
            <Button quiet size="middle" onClick={() => answer('tentative')}>
              {sentences.perhaps}
            </Button>
            <Button quiet size="middle" onClick={() => answer('declined')}>
              {sentences.no}
            </Button>
          </>
        )}
        {(i.method === 'publish' || !e.organizer.address) && i.news !== 'known' && (
          <Button size="middle" onClick={() => answer('')}>
            {sentences.putItIntoThe}
          </Button>
        )}
        {i.news === 'cancelled' && i.have && !i.have.cancelled && (
          <Button size="middle" onClick={() => answer('')}>
            {sentences.markItAsCalled}
          </Button>
        )}
      </div>
    </section>
  )
}

/** Events made from a conversation. */
export const EventLine = ({ e }: { e: CalendarEvent }) => (
  <Link
    to={'/calendar?day=' + dayKey(e.start.at)}
    className="mb-3 flex items-center gap-2 rounded-[9px] border border-sand-200 px-3 py-2 hover:bg-sand-50"
    data-testid="event-line"
  >
    <CalendarDotsIcon size={16} className="shrink-0 text-accent" aria-hidden />
    <b className="shrink-0 text-[12px] text-accent">{span(e)}</b>
    <span className={`truncate text-ink-500 ${e.cancelled ? 'line-through' : ''}`}>{e.title}</span>
  </Link>
)
