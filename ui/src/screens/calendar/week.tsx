import { FlagPennantIcon, SunHorizonIcon } from '@phosphor-icons/react'
import { useMemo, useRef, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import type { CalendarDay } from '../../api/desk'
import { type EventDraft } from '../../api/desk'
import type { Slot } from '../../api/gen/calendar'
import type { Moment } from '../../api/gen/when'
import { useWeek } from '../../api/queries'
import { useMe } from '../../api/session'
import { addDays, clock, date, dayKey, daysAway, now, plural, weekday } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Keeps, useKept } from '../../frame/kept'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { TimeBlock } from '../../kit/pieces'
import { DockKey, DockSide } from '../worktop/dock'
import { EventTray } from './event'
import { sentences } from './sentences'

const HOUR = 44 // px

type Tray = '' | 'change' | 'new'

/** One week: events, what is due, and what comes back. */
export function Week() {
  const [params, setParams] = useSearchParams()
  const day = params.get('day') ?? ''
  const { data, error, refetch } = useWeek(day)
  const desk = useDesk()
  const kept = useKept()
  const put = (typedIn: string, uid: string, event: EventDraft) => {
    const back = kept.forget(typedIn)
    void desk.act('/calendar/events', { uid, event }).then((d) => d ?? back())
  }
  const navigate = useNavigate()
  const week = useMe().week
  const [chosen, setChosen] = useState<Slot>()
  const [tray, setTray] = useState(() => fromAddress('tray') as Tray)
  useInAddress({ tray }, (was) => setTray(was('tray') as Tray))
  const [at, setAt] = useState<Moment>()
  const scroller = useRef<HTMLDivElement>(null)
  const slots = useMemo(
    () => data?.days.flatMap((d) => d.slots.filter((s) => s.from >= d.start || d === data.days[0])) ?? [],
    [data],
  )
  const index = chosen ? slots.findIndex((s) => s.uid === chosen.uid && s.from === chosen.from) : -1
  const current = index >= 0 ? slots[index] : undefined
  const go = (n: number) => setParams(data ? { day: addDays(data.from, n) } : {})
  const choose = (s?: Slot) => {
    if (s) {
      setChosen(s)
      setTray('')
    }
  }
  const drop = () => {
    if (current) {
      setChosen(undefined)
      void desk.act('/calendar/steps', { uid: current.uid, kind: 'event-drop' })
    }
  }
  useCommands([
    { id: 'next', run: () => choose(slots[index + 1] ?? slots[0]) },
    { id: 'previous', run: () => choose(slots[index < 0 ? slots.length - 1 : index - 1]) },
    { id: 'week-after', name: sentences.theWeekAfter, keys: ['ArrowRight', 'PageDown'], run: () => go(7) },
    { id: 'week-before', name: sentences.theWeekBefore, keys: ['ArrowLeft', 'PageUp'], run: () => go(-7) },
    { id: 'this-week', name: sentences.thisWeek, keys: ['Home'], run: () => setParams({}) },
    {
      id: 'new-event',
      name: sentences.putSomethingNewIn,
      keys: ['7'],
      run: () => {
        setAt(undefined)
        setTray(tray === 'new' ? '' : 'new')
      },
    },
    ...(current
      ? [
          { id: 'drop', name: sentences.deleteTheEvent, run: drop },
          { id: 'change', name: sentences.changeTheEvent, run: () => setTray(tray === 'change' ? '' : 'change') },
          ...(current.conversation
            ? [
                {
                  id: 'open-mail',
                  name: sentences.openItsMail,
                  keys: ['Enter'],
                  run: () => void navigate('/c/' + current.conversation),
                },
              ]
            : []),
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
  ])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheWeek} />
  const timed = slots.filter((s) => s.start.local?.length !== 10)
  const hours = timed.flatMap((s) => [hourOf(s.from), Math.ceil(hourOf(s.to) || 24)])
  const first = Math.floor(Math.min(week.morning / 60, ...hours.map(Math.floor)))
  const last = Math.min(24, Math.max(week.evening / 60, ...hours))
  const rows = Array.from({ length: Math.ceil(last - first) }, (_, i) => first + i)
  const title = sentences.wholeDays(
    date(data.days[0].start).replace(/^\w+ /, ''),
    date(data.days[6].start).replace(/^\w+ /, ''),
  )
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="flex flex-wrap items-center gap-3 px-[22px] pt-4 pb-2 max-[700px]:px-3">
        <Heading>{sentences.week}</Heading>
        <span className="text-[15px] text-ink-500" data-testid="week">
          {title}
        </span>
        <span className="flex-1" />
        <Button quiet size="middle" onClick={() => go(-7)} aria-label={sentences.theWeekBefore}>
          ←
        </Button>
        <Button quiet size="middle" onClick={() => setParams({})}>
          {sentences.thisWeek}
        </Button>
        <Button quiet size="middle" onClick={() => go(7)} aria-label={sentences.theWeekAfter}>
          →
        </Button>
      </div>
      <div ref={scroller} className="min-h-0 overflow-auto px-[22px] pb-4 max-[700px]:px-3">
        <div className="grid min-w-[760px] grid-cols-[44px_repeat(7,minmax(0,1fr))]">
          <span className="sticky top-0 z-10 bg-sand-50" />
          {data.days.map((d) => (
            <DayHead key={d.start} d={d} />
          ))}
          <span />
          {data.days.map((d) => (
            <AllDay key={d.start} d={d} chosen={current} onChoose={choose} />
          ))}
          <div className="relative" style={{ height: rows.length * HOUR }}>
            {rows.map((h, i) => (
              <span
                key={h}
                className="absolute right-2 -translate-y-1/2 text-[11px] text-ink-500 tabular-nums"
                style={{ top: i * HOUR }}
              >
                {i > 0 && `${h}:00`}
              </span>
            ))}
          </div>
          {data.days.map((d, n) => (
            <DayColumn
              key={d.start}
              d={d}
              off={!week.workdays.includes((n + 1) % 7)}
              rows={rows.length}
              first={first}
              chosen={current}
              onChoose={choose}
              onEmpty={(h) => {
                setAt({ at: 1, local: `${dayKey(d.start)}T${String(h).padStart(2, '0')}:00`, zone: week.zone })
                setTray('new')
              }}
            />
          ))}
        </div>
      </div>
      <DecisionBar>
        {tray === 'change' && current && (
          <Keeps name={'event/' + current.uid} what={sentences.changesOf(current.title)}>
            <EventTray
              key={current.uid}
              change={current}
              onClose={() => setTray('')}
              onPut={(e) => {
                setTray('')
                put('event/' + current.uid, current.uid, e)
              }}
            />
          </Keeps>
        )}
        {tray === 'new' && (
          <Keeps name="event" what={sentences.anEvent}>
            <EventTray
              key={at?.local}
              start={at}
              onClose={() => setTray('')}
              onPut={(e) => {
                setTray('')
                put('event', '', e)
              }}
            />
          </Keeps>
        )}
        <BarKeys
          side={
            <DockSide
              position={
                current
                  ? `${current.title}, ${clock(current.from)}`
                  : slots.length
                    ? plural(slots.length, sentences.event)
                    : sentences.noEventsThisWeek
              }
            />
          }
        >
          <DockKey id="drop" disabled={!current} onClick={drop}>
            {sentences.delete}
          </DockKey>
          <DockKey
            id="change"
            disabled={!current}
            on={tray === 'change'}
            onClick={() => setTray(tray === 'change' ? '' : 'change')}
          >
            {sentences.change}
          </DockKey>
          <DockKey
            id="new-event"
            usual={['7']}
            on={tray === 'new'}
            onClick={() => {
              setAt(undefined)
              setTray(tray === 'new' ? '' : 'new')
            }}
          >
            {sentences.putIn}
          </DockKey>
          {!!current?.conversation && (
            <DockKey id="open-mail" usual={['Enter']} onClick={() => void navigate('/c/' + current.conversation)}>
              {sentences.itsMail}
            </DockKey>
          )}
        </BarKeys>
      </DecisionBar>
    </div>
  )
}

const hourOf = (at: number) => {
  const [h, m] = clock24(at).split(':').map(Number)
  return h + m / 60
}
const clock24 = (at: number) => {
  const text = clock(at)
  if (!/[ap]m$/i.test(text)) return text
  const [h, m] = text
    .replace(/\s?[ap]m$/i, '')
    .split(':')
    .map(Number)
  return `${(h % 12) + (/pm$/i.test(text) ? 12 : 0)}:${m}`
}
const off = (s: Slot) => s.cancelled || s.mine === 'declined'

function DayHead({ d }: { d: CalendarDay }) {
  const today = daysAway(d.start) === 0
  return (
    <div
      className={`sticky top-0 z-10 border-b-2 bg-sand-50 px-1.5 pb-1 text-[12.5px] ${today ? 'border-fill' : 'border-sand-300'}`}
    >
      <b className={today ? 'text-accent' : ''}>{weekday(d.start)}</b>{' '}
      <span className="text-ink-500">{date(d.start).replace(/^\w+ /, '')}</span>
    </div>
  )
}

/** What has no hour: whole days, what is due, what comes back. */
function AllDay({ d, chosen, onChoose }: { d: CalendarDay; chosen?: Slot; onChoose: (s: Slot) => void }) {
  const most = 3
  const rest = d.open - Math.min(d.due.length, most)
  return (
    <div className="min-h-9 min-w-0 space-y-1 border-b border-l border-sand-200 px-1 py-1.5 text-[11.5px]">
      {d.slots
        .filter((s) => s.start.local?.length === 10)
        .map((s) => (
          <TimeBlock
            look={chosen?.uid === s.uid ? 'day-chosen' : 'day'}
            off={off(s)}
            key={s.uid + s.from}
            data-event={s.title}
            onClick={() => onChoose(s)}
          >
            {s.title}
          </TimeBlock>
        ))}
      {d.due.slice(0, most).map((f) => (
        <Link
          key={f.uid}
          to={'/follow-ups/' + encodeURIComponent(f.uid)}
          title={sentences.due(f.title)}
          className={cx(
            'flex min-h-6 items-center gap-1 truncate rounded-[5px] px-1 hover:underline',
            f.due.at < now() ? 'bg-coral-100 text-coral-600' : 'bg-amber-100 text-amber-600',
          )}
        >
          <FlagPennantIcon size={11} className="shrink-0" aria-label={sentences.dueShort} />
          <span className="truncate">{f.title}</span>
        </Link>
      ))}
      {rest > 0 && (
        <Link
          to={`/follow-ups?by=date&filter=${encodeURIComponent(JSON.stringify({ day: dayKey(d.start) }))}`}
          className="block text-accent hover:underline"
        >
          {sentences.andMoreDue(rest)}
        </Link>
      )}
      {d.back.slice(0, most).map((s) => (
        <Link
          key={s.id}
          to={'/c/' + s.id}
          title={sentences.back(clock(s.position.return.at), s.subject)}
          className="flex min-h-6 items-center gap-1 truncate px-1 text-ink-500 hover:underline"
        >
          <SunHorizonIcon size={12} className="shrink-0" aria-label={sentences.backShort} />
          <span className="truncate">{s.title || s.subject}</span>
        </Link>
      ))}
      {d.back.length > most && (
        <Link to="/later" className="block px-1 text-ink-500 hover:underline">
          {sentences.andMoreBack(d.back.length - most)}
        </Link>
      )}
    </div>
  )
}

interface ColumnProps {
  d: CalendarDay
  off: boolean
  rows: number
  first: number
  chosen?: Slot
  onChoose: (s: Slot) => void
  onEmpty: (hour: number) => void
}

/** The hours of a day; events that overlap stand side by side. */
function DayColumn({ d, off: free, rows, first, chosen, onChoose, onEmpty }: ColumnProps) {
  const placed = useMemo(() => sideBySide(d.slots.filter((s) => s.start.local?.length !== 10)), [d.slots])
  const today = daysAway(d.start) === 0
  const y = (at: number, end: boolean) => {
    if (at < d.start) return 0
    if (dayKey(at) !== dayKey(d.start) && end) return rows * HOUR
    return Math.min(rows * HOUR, Math.max(0, (hourOf(at) - first) * HOUR))
  }
  return (
    <div
      className={`relative border-l border-sand-200 ${free ? 'bg-sand-100/60' : ''}`}
      style={{
        height: rows * HOUR,
        backgroundImage: 'linear-gradient(var(--sand-200) 1px, transparent 1px)',
        backgroundSize: `100% ${HOUR}px`,
      }}
      onDoubleClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect()
        onEmpty(Math.min(23, first + Math.floor((e.clientY - box.top) / HOUR)))
      }}
    >
      {today && (
        <i
          aria-hidden
          className="absolute inset-x-0 z-[1] border-t-2 border-coral-600"
          style={{ top: y(now(), false) }}
        />
      )}
      {placed.map(({ s, lane, lanes }) => {
        const top = y(s.from, false)
        const height = Math.max(22, y(s.to, true) - top - 2)
        const on = chosen?.uid === s.uid && chosen.from === s.from
        return (
          <TimeBlock
            look={on ? 'chosen' : s.mine === 'tentative' || s.mine === 'needs-action' ? 'asked' : 'event'}
            off={off(s)}
            key={s.uid + s.from}
            data-event={s.title}
            title={sentences.slotName(clock(s.from), clock(s.to), s.title, s.place ? ', ' + s.place : '')}
            onClick={() => onChoose(s)}
            onDoubleClick={(e) => e.stopPropagation()}
            style={{ top, height, left: `calc(${(100 / lanes) * lane}% + 2px)`, width: `calc(${100 / lanes}% - 4px)` }}
          >
            <b className="block truncate">{s.title}</b>
            {height > 34 && (
              <span className="block truncate opacity-90">
                {clock(s.from)}
                {s.place ? `, ${s.place}` : ''}
              </span>
            )}
          </TimeBlock>
        )
      })}
    </div>
  )
}

function sideBySide(slots: Slot[]) {
  const out: { s: Slot; lane: number; lanes: number }[] = []
  let group: typeof out = []
  let end = 0
  const close = () => {
    const lanes = Math.max(0, ...group.map((g) => g.lane)) + 1
    for (const g of group) g.lanes = lanes
    group = []
  }
  for (const s of [...slots].sort((a, b) => a.from - b.from || b.to - a.to)) {
    if (s.from >= end) close()
    const taken = new Set(group.filter((g) => g.s.to > s.from).map((g) => g.lane))
    let lane = 0
    while (taken.has(lane)) lane++
    const one = { s, lane, lanes: 1 }
    group.push(one)
    out.push(one)
    end = Math.max(end, s.to)
  }
  close()
  return out
}
