import { ArrowCounterClockwiseIcon, ArrowsClockwiseIcon, CheckIcon, CheckSquareIcon } from '@phosphor-icons/react'
import { Link } from 'react-router'
import type { FollowUpView, NewFollowUp } from '../../api/desk'
import type { Day } from '../../api/gen/followup'
import type { Moment, Rhythm } from '../../api/gen/when'
import { called } from '../../api/names'
import { date, dayKey, due, long, minutes, now, plural, short, span, weekday } from '../../api/times'
import { Keeps, useKept } from '../../frame/kept'
import { CardButton, TextButton } from '../../kit/button'
import { Chip, Waves } from '../../kit/kit'
import { LabelChip } from '../../kit/label'
import { toNew } from '../../kit/line'
import { Row } from '../../kit/list'
import { dayOf, PhraseField } from '../../kit/phrase'
import { Tick } from '../../kit/pieces'
import { Tray } from '../../kit/tray'
import { dueChip } from '../worktop/why'
import { sentences } from './sentences'

export const isOpen = (f: { status: string }) => f.status === 'needs-action' || f.status === 'in-process'
/** Whether somebody's answer is awaited. */
export const isWaiting = (f: FollowUpView) => isOpen(f) && (f.waits.since ?? 0) > 0

/** A follow-up as it is sent when something of it is changed. */
export const asNew = (f: FollowUpView, patch: Partial<NewFollowUp> = {}): NewFollowUp => ({
  ...toNew(f, false),
  priority: f.priority,
  ...patch,
})

/** When it is asked again; after the last time of a rhythm, when it is told that nobody has answered. */
export const asksAgain = ({ waits }: FollowUpView, when: string) =>
  waits.rhythm?.times && (waits.asked ?? 0) >= waits.rhythm.times
    ? sentences.toldIfNobody(when)
    : sentences.askAgain(when)
/** Whom it is about, and how many others are waited for. */
export const withName = (f: FollowUpView) =>
  (f.with.name || f.with.address) + (f.waits.also?.length ? ` +${f.waits.also.length}` : '')

/** What stands below the title: priority, when it is due, whom it waits for, and what else is said of it. */
export function Facts({ f, project = true }: { f: FollowUpView; project?: boolean }) {
  const chip = f.due.at > 0 ? dueChip(f.due) : null
  const done = f.checklist?.filter((i) => i.done).length ?? 0
  if (!isOpen(f))
    return (
      <Chip tone={f.status === 'completed' ? 'done' : 'plain'}>
        {f.status === 'completed' ? '' : sentences.cancelled}
        {long(f.finished)}
      </Chip>
    )
  return (
    <>
      <Waves priority={f.priority} />
      {(f.waits.since ?? 0) > 0 && (
        <Chip tone="with">
          {called(withName(f))} · {span(now() - f.waits.since!)}
        </Chip>
      )}
      {canKeepWaiting(f) && <Chip tone="tide">{sentences.answered(called(withName(f)), short(f.waits.ended!))}</Chip>}
      {chip && (
        <Chip tone={chip.tone}>
          {chip.tone === 'late' ? lateBy(f.due.at) : chip.tone === 'due' ? due(f.due) : due(f.due)}
        </Chip>
      )}
      {f.waits.ask.at > 0 && <Chip>{asksAgain(f, short(f.waits.ask.at))}</Chip>}
      {f.asking && <Chip tone={f.waits.ask.at ? 'plain' : 'late'}>{f.asking}</Chip>}
      {project && f.project && <Chip>{f.project}</Chip>}
      {f.context && <Chip>{sentences.at(f.context)}</Chip>}
      {f.labels?.map((l) => (
        <LabelChip key={l} id={l} />
      ))}
      {f.repeats && (
        <span title={f.repeats} className="inline-flex items-center text-[11.5px] text-ink-500">
          <ArrowsClockwiseIcon size={13} aria-label={f.repeats} />
        </span>
      )}
      {!!f.checklist?.length && (
        <span className="inline-flex items-center gap-0.5 text-[11.5px] text-ink-500">
          <CheckSquareIcon size={13} aria-hidden />
          {done}/{f.checklist.length}
        </span>
      )}
      {!!f.percent && f.percent > 0 && <span className="text-[11.5px] text-ink-500">{f.percent} %</span>}
      {!!f.effort && <span className="text-[11.5px] text-ink-500">{minutes(f.effort)}</span>}
      {(f.moved ?? 0) >= 3 && <Chip tone="late">{sentences.putOffTimes(f.moved!)}</Chip>}
    </>
  )
}

/** Whether an answer has just ended its waiting, which may have been none. */
export const canKeepWaiting = (f: FollowUpView) => (f.waits.ended ?? 0) > 0 && now() - f.waits.ended! < 3 * 86_400_000

/** "late by 2 days". */
export const lateBy = (at: number) => {
  const days = Math.round((Date.parse(dayKey(now())) - Date.parse(dayKey(at))) / 86_400_000)
  return days > 0
    ? sentences.lateBy(plural(days, sentences.day))
    : sentences.lateSince(due({ at })).replace('today ', '')
}

export const mailOf = (f: FollowUpView) =>
  f.message ? '/mid/' + encodeURIComponent(f.message) : '/c/' + f.conversation

/** The conversation a follow-up is about, one click away. */
export function Source({ f }: { f: FollowUpView }) {
  if (!f.conversation) return null
  return (
    <Link
      to={mailOf(f)}
      onClick={(e) => e.stopPropagation()}
      className="mt-1.5 block max-w-full truncate border-l-2 border-sand-300 pl-[7px] text-[11.5px] text-ink-500 hover:text-ink-900 hover:underline"
    >
      {f.gone && <b className="text-coral-600">{sentences.inTheBin} </b>}
      {f.from} — {f.subject || sentences.noSubject}
    </Link>
  )
}

interface LineProps {
  f: FollowUpView
  selected: boolean
  card?: boolean // on the board
  onSelect: () => void
  onOpen: () => void
  onFinish?: () => void
  onReopen?: () => void
}

/** One follow-up in a list or on the board. */
export function Line({ f, selected, card, onSelect, onOpen, onFinish, onReopen }: LineProps) {
  const open = isOpen(f)
  const tick = open ? (
    <Tick
      tabIndex={-1}
      label={sentences.finish(f.title)}
      title={sentences.finishTitle}
      onClick={(e) => {
        e.stopPropagation()
        onFinish?.()
      }}
    >
      <CheckIcon size={12} weight="bold" className="text-kelp-600 opacity-0 group-hover:opacity-100" aria-hidden />
    </Tick>
  ) : (
    <Tick
      finished
      tabIndex={-1}
      label={sentences.openAgain(f.title)}
      title={sentences.openAgainTitle}
      onClick={(e) => {
        e.stopPropagation()
        onReopen?.()
      }}
    >
      <ArrowCounterClockwiseIcon size={12} aria-hidden />
    </Tick>
  )
  return (
    <Row
      id={'followup-' + f.uid}
      title={f.title}
      current={selected}
      look={card ? 'card' : 'line'}
      className={card ? 'px-3 py-2.5' : 'flex items-start gap-3 px-2.5 py-2'}
      onChoose={onSelect}
      onOpen={onOpen}
    >
      {card ? (
        <>
          <p className={`flex gap-2 font-semibold break-words ${open ? '' : 'text-ink-500'}`}>
            <span className="min-w-0 flex-1">{f.title}</span>
            {!open && tick}
          </p>
          <p className="mt-1.5 flex flex-wrap items-center gap-1.5">
            <Facts f={f} />
          </p>
          <Source f={f} />
        </>
      ) : (
        <>
          {tick}
          <div className="min-w-0 flex-1">
            <p className={`font-semibold break-words ${open ? '' : 'text-ink-500'}`}>{f.title}</p>
            <Source f={f} />
          </div>
          <div className="flex max-w-[46%] shrink-0 flex-wrap items-center justify-end gap-1.5 pt-px">
            <Facts f={f} />
          </div>
        </>
      )}
    </Row>
  )
}

/** Until when is it put off? In words, or to one of the coming days, each with what is open on it. */
export function PutOffTray({
  title,
  rhythm,
  days,
  onDay,
  onTime,
  onNoDate,
  onClose,
}: {
  title: string
  rhythm?: boolean // it can be said that it is done again and again
  days: Day[]
  onDay: (day: number) => void
  onTime: (m: Moment, rhythm?: Rhythm) => void
  onNoDate?: () => void
  onClose: () => void
}) {
  const kept = useKept()
  const typedIn = 'put-off/' + title
  return (
    <Keeps name={typedIn} what={sentences.puttingOff(title)}>
      <Tray label={sentences.putOffTitle} testid="putoff-tray" layout="aside" onClose={onClose}>
        <div>
          <PhraseField
            id="putoff-phrase"
            label={sentences.putOffUntilWhen(title)}
            placeholder={sentences.thuNoon}
            autoFocus
            whole={!rhythm}
            rhythm={rhythm}
            onChosen={() => {}}
            onAccept={(c) => {
              kept.forget(typedIn)
              onTime(c.timed || c.rhythm ? c.moment : dayOf(c.moment), c.rhythm)
            }}
            onCancel={onClose}
          />
          {onNoDate && (
            <TextButton small onClick={onNoDate}>
              {sentences.withoutADate}
            </TextButton>
          )}
        </div>
        <div className="min-w-0">
          <p className="mb-1 text-[11.5px] font-[650] text-ink-500">{sentences.orADayWhat}</p>
          <ul className="grid grid-cols-7 gap-1.5 max-[700px]:grid-cols-4">
            {days.slice(0, 14).map(
              (d, i) =>
                !d.off && (
                  <li key={d.start}>
                    <CardButton
                      small
                      look={d.over ? 'late' : 'sand'}
                      className="text-[11.5px] text-ink-500"
                      data-day={i}
                      onClick={() => onDay(i)}
                    >
                      <b className="block text-[12px] text-ink-900">
                        {i === 0 ? sentences.today : i < 7 ? weekday(d.start) : date(d.start).replace(/^\w+ /, '')}
                      </b>
                      {d.open ? sentences.open(d.open) : sentences.free}
                      <Load day={d} />
                    </CardButton>
                  </li>
                ),
            )}
          </ul>
        </div>
      </Tray>
    </Keeps>
  )
}

/** A bar of what is open against what is usual; coral and full when it is more. */
export const Load = ({ day }: { day: { load: number; usual: number; over: boolean } }) => (
  <span aria-hidden className="mt-[5px] block h-[5px] overflow-hidden rounded-[2px] bg-sand-200">
    <i
      className={`block h-full ${day.over ? 'bg-coral-600' : 'bg-fill'}`}
      style={{
        width: `${day.over ? 100 : day.usual ? Math.min(100, Math.round((100 * day.load) / day.usual)) : day.load ? 100 : 0}%`,
      }}
    />
  </span>
)
