import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { scaleLinear } from 'd3-scale'
import { useState } from 'react'
import { get } from '../../api/client'
import type { AheadDay, AheadView } from '../../api/desk'
import type { Proof } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { dateOf, dayOfWeek, minutes, plural, weekdays } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { Opener, TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Ages } from './ages'
import { Panel } from './panel'
import { sentences } from './sentences'
import { Views } from './views'

const WIDTH = 1000
const HEIGHT = 150
const FOOT = 16
const FRIDAY = 5

/** What the coming six weeks hold against what one usually does, and what a day off would do to it. */
export function LookAhead() {
  const [off, setOff] = useState(() => fromAddress('off').split(',').filter(Boolean))
  useInAddress({ off: off.join(',') }, (was) => setOff(was('off').split(',').filter(Boolean)))
  const { data, error, refetch } = useQuery({
    queryKey: ['figures', 'ahead', off.join(',')],
    queryFn: () => get<AheadView>('/figures/ahead?off=' + off.join(',')),
    placeholderData: keepPreviousData,
    staleTime: 0,
  })
  const toggle = (date: string) => setOff(off.includes(date) ? off.filter((d) => d !== date) : [...off, date].sort())
  const friday = data?.days.find((d, i) => i > 0 && dayOfWeek(d.date) === FRIDAY && !d.off)
  useCommands([
    { id: 'friday-off', name: sentences.fridayOff, keys: ['x'], run: () => friday && toggle(friday.date) },
    { id: 'none-off', name: sentences.noneOff, run: () => setOff([]) },
  ])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto px-6 py-4 max-[700px]:px-3.5" data-testid="ahead">
      <Views />
      <div className="mb-3.5 flex flex-wrap items-baseline gap-x-4 gap-y-1.5">
        <Heading>{sentences.sixWeeks}</Heading>
        <p className="min-w-64 flex-1 text-ink-700" data-testid="said">
          {said(data)}
        </p>
      </div>
      <div className="grid grid-cols-2 gap-x-6 gap-y-4 max-[900px]:grid-cols-1">
        <Panel
          name={sentences.dayByDay}
          testid="ahead-days"
          className="col-span-full"
          file="ahead"
          says={
            <span data-testid="off">
              {off.length > 0 ? withoutThem(data) : sentences.whatIf}{' '}
              {off.length > 0 && (
                <TextButton small onClick={() => setOff([])}>
                  {sentences.noneOff}
                </TextButton>
              )}
            </span>
          }
          behind={{
            head: [
              sentences.day,
              sentences.expected,
              sentences.comesBack,
              sentences.usuallyDecided,
              sentences.leftAtItsEnd,
              sentences.dueMinutes,
              sentences.eventMinutes,
              sentences.usuallyDone,
              sentences.overAtItsEnd,
            ],
            rows: data.days.map((d) => [
              dateOf(d.date),
              d.mail,
              d.back,
              d.off || d.free ? 0 : d.pace,
              d.leftThen,
              d.due,
              d.events,
              d.off || d.free ? 0 : d.room,
              d.overThen,
            ]),
          }}
        >
          <div className="overflow-x-auto">
            <div className="min-w-[760px]">
              <Row
                name={sentences.toDecide}
                days={data.days}
                falls={(d) => [d.mail, d.back]}
                usual={(d) => d.pace}
                left={(d) => d.leftThen}
                was={(d) => d.left}
                say={digits}
              />
              <Row
                name={sentences.toDo}
                days={data.days}
                falls={(d) => [d.due, d.events]}
                usual={(d) => d.room}
                left={(d) => d.overThen}
                was={(d) => d.over}
                say={minutes}
              />
              <DaysOff days={data.days} toggle={toggle} />
            </div>
          </div>
          <p className="mt-1.5 text-[12px] text-ink-500">{sentences.howToRead}</p>
        </Panel>
        <Ages name={sentences.inTheInbox} counts={data.inbox} of="" testid="inbox-ages" file="inbox-ages" />
        <Ages name={sentences.openFollowUps} counts={data.open} of="open" testid="open-ages" file="open-follow-ups" />
        <Proved data={data} />
      </div>
    </div>
  )
}

/** For each day what falls on it, a mark where the usual is, and a line of what is left. */
function Row({
  name,
  days,
  falls,
  usual,
  left,
  was,
  say,
}: {
  name: string
  days: AheadDay[]
  falls: (d: AheadDay) => number[]
  usual: (d: AheadDay) => number
  left: (d: AheadDay) => number
  was: (d: AheadDay) => number
  say: (n: number) => string
}) {
  const most = Math.max(
    1,
    ...days.map((d) =>
      Math.max(
        falls(d).reduce((a, b) => a + b, 0),
        usual(d),
        left(d),
      ),
    ),
  )
  const y = scaleLinear([0, most], [0, HEIGHT - FOOT - 12])
  const wide = WIDTH / days.length
  const base = HEIGHT - FOOT
  const line = (of: (d: AheadDay) => number) =>
    days.map((d, i) => `${i ? 'L' : 'M'}${(i + 0.5) * wide},${base - y(of(d))}`).join('')
  const apart = days.some((d) => left(d) !== was(d))
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block w-full" aria-hidden>
      {days.map((d, i) => {
        const [first, second] = falls(d)
        const rest = d.off || d.free
        return (
          <g key={d.date} transform={`translate(${i * wide},${base})`}>
            <title>{sentences.aheadBar(dateOf(d.date), say(first), say(second), say(left(d)))}</title>
            {rest && <rect x={0} y={-(HEIGHT - FOOT)} width={wide} height={HEIGHT - FOOT} fill="var(--sand-100)" />}
            <rect x={wide * 0.2} width={wide * 0.6} y={-y(first)} height={y(first)} fill="var(--tide-200)" />
            <rect
              x={wide * 0.2}
              width={wide * 0.6}
              y={-y(first + second)}
              height={y(second)}
              fill="var(--amber-600)"
              opacity={0.55}
            />
            {!rest && usual(d) > 0 && (
              <line
                x1={wide * 0.08}
                x2={wide * 0.92}
                y1={-y(usual(d))}
                y2={-y(usual(d))}
                stroke="var(--ink-700)"
                strokeWidth={1.6}
              />
            )}
          </g>
        )
      })}
      {apart && <path d={line(was)} fill="none" stroke="var(--ink-400)" strokeWidth={1.4} strokeDasharray="3 3" />}
      <path d={line(left)} fill="none" stroke="var(--coral-600)" strokeWidth={1.8} />
      <line x1={0} x2={WIDTH} y1={base} y2={base} stroke="var(--sand-300)" />
      <text x={0} y={11} fontSize={12} fontWeight={650} fill="var(--ink-700)">
        {sentences.nameUpTo(name, say(most))}
      </text>
    </svg>
  )
}

/** The days themselves: one that is pressed is taken off, in thought. */
function DaysOff({ days, toggle }: { days: AheadDay[]; toggle: (date: string) => void }) {
  const names = weekdays('short')
  return (
    <div className="flex" role="group" aria-label={sentences.takeOff}>
      {days.map((d) => (
        <Opener
          key={d.date}
          open={d.free}
          disabled={d.off}
          aria-expanded={undefined}
          aria-pressed={d.free}
          aria-label={sentences.takeThatOff(dateOf(d.date))}
          data-day={d.date}
          className={cx(
            'block! min-w-0 flex-1 rounded-[4px] py-0.5 text-center! text-[9.5px] leading-tight',
            d.free ? 'bg-fill text-white' : d.off ? 'text-ink-400' : 'text-ink-700 hover:bg-tide-100',
          )}
          onClick={() => toggle(d.date)}
        >
          {names[dayOfWeek(d.date)].slice(0, 2)}
          <br />
          {Number(d.date.slice(8))}
        </Opener>
      ))}
    </div>
  )
}

const enough = 10 // days, below which a difference says nothing

/** How far what was foreseen in the morning was off, beside what a week before would have said. */
function Proved({ data }: { data: AheadView }) {
  const { zero, mail, load } = data.proofs
  const tenth = (n: number) => Math.round(10 * n) / 10
  const all: { name: string; of: Proof; say: (n: number) => string }[] = [
    { name: sentences.zeroTime, of: zero, say: (n) => minutes(Math.round(n)) },
    { name: sentences.expectedMail, of: mail, say: (n) => plural(tenth(n), sentences.message) },
    { name: sentences.finishedWork, of: load, say: (n) => minutes(Math.round(n)) },
  ]
  const rows = all.filter((r) => r.of.days > 0)
  const known = rows.filter((r) => r.of.days >= enough)
  const nearer = known.filter((r) => r.of.ours < r.of.plain).length
  return (
    <Panel
      name={sentences.wasItTrue}
      testid="proved"
      className="col-span-full"
      file="forecasts"
      says={known.length ? sentences.nearer(nearer, known.length) : sentences.tooFewMornings}
    >
      {rows.length > 0 && (
        <table className="w-full max-w-2xl border-collapse text-[12.5px]" aria-label={sentences.wasItTrue}>
          <thead>
            <tr className="border-b border-ink-900 text-left text-[11.5px] text-ink-500">
              <th scope="col" className="py-0.5 font-[650]">
                {sentences.foreseen}
              </th>
              {[sentences.offBy, sentences.aWeekBefore, sentences.onDays].map((h) => (
                <th key={h} scope="col" className="pl-3 text-right font-[650]">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.name} className="border-b border-sand-200">
                <th scope="row" className="py-1 text-left font-normal">
                  {r.name}
                </th>
                {r.of.days < enough ? (
                  <td colSpan={2} className="pl-3 text-right text-ink-500">
                    {sentences.tooFewDays}
                  </td>
                ) : (
                  <>
                    <td className={cx('pl-3 text-right', r.of.ours < r.of.plain && 'font-[650]')}>
                      {r.say(r.of.ours)}
                    </td>
                    <td className={cx('pl-3 text-right', r.of.plain < r.of.ours && 'font-[650]')}>
                      {r.say(r.of.plain)}
                    </td>
                  </>
                )}
                <td className="pl-3 text-right tabular-nums">{r.of.days}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Panel>
  )
}

/** The six weeks in words. */
function said(v: AheadView) {
  const parts = [sentences.now(digits(v.left), v.late ? minutes(v.late) : '')]
  const heavy = v.days.reduce((a, b) => (b.due + b.events > a.due + a.events ? b : a))
  if (heavy.due + heavy.events > 0)
    parts.push(sentences.heaviestAhead(dateOf(heavy.date), minutes(heavy.due), minutes(heavy.events)))
  const through = v.days.find((d) => !d.off && d.left === 0 && d.pace > 0)
  if (v.learned >= 7) parts.push(through ? sentences.throughBy(dateOf(through.date)) : sentences.neverThrough)
  const over = v.days.find((d) => d.over > 0 && !d.off)
  if (over && !v.late) parts.push(sentences.moreThanUsual(dateOf(over.date)))
  return parts.join(' ')
}

/** What taking days off does. */
function withoutThem(v: AheadView) {
  const more = Math.max(0, ...v.days.map((d) => d.leftThen - d.left))
  const work = Math.max(0, ...v.days.map((d) => d.overThen - d.over))
  const days = v.off.map((d) => dateOf(d)).join(', ')
  if (!v.off.length) return sentences.offAlready
  if (!more && !work) return sentences.offFree(days)
  return sentences.offCosts(days, digits(more), work ? minutes(work) : '', v.caughtUp ? dateOf(v.caughtUp) : '')
}
