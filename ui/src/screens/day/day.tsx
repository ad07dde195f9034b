import type { ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import { about, comingName } from '../../api/coming'
import type { CalendarWeek, Dayline, FollowUpView } from '../../api/desk'
import { digits } from '../../api/digits'
import { useDayline, useDelivery, useFollowUps, useQueue, useWaiting, useWeek } from '../../api/queries'
import { clock, date, daysAway, due, long, now, short, wholeDay } from '../../api/times'
import { Button } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Chip, Failed, Waves } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { dueChip, sectionName } from '../worktop/why'
import { sentences } from './sentences'

const FEW = 6 // that many of each stand here; all are on the screen they belong to

/** The day at a glance: what is left, comes, returns, is due, is awaited. From here it begins. */
export function Day() {
  const line = useDayline()
  const navigate = useNavigate()
  if (line.error && !line.data) return <Failed error={line.error} again={() => void line.refetch()} />
  if (!line.data) return <Loading what={sentences.loadingTheDay} />
  const { left } = line.data
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-4xl">
        <Heading>{date(now())}</Heading>
        <div className="mt-4 grid grid-cols-2 gap-x-12 gap-y-7 max-[900px]:grid-cols-1">
          <section aria-labelledby="day-left" data-testid="day-left">
            <Title id="day-left" to="/">
              {sentences.leftToDecide}
            </Title>
            {left ? (
              <>
                <p className="flex items-baseline gap-3">
                  <span className="text-[44px] leading-none font-[650] tracking-[-.04em] tabular-nums">
                    {digits(left)}
                  </span>
                  <span className="text-ink-500">{foreseen(line.data)}</span>
                </p>
                <Reasons />
                <div className="mt-3 flex flex-wrap gap-2">
                  <Button autoFocus onClick={() => void navigate('/?tray=sit')}>
                    {sentences.sitting}
                  </Button>
                  <Button quiet onClick={() => void navigate('/')}>
                    {sentences.inbox}
                  </Button>
                </div>
              </>
            ) : (
              <p className="text-ink-700">{sentences.nothingLeft}</p>
            )}
          </section>
          {line.data.review && (
            <p data-testid="day-review">
              <Link to="/numbers/review" className="text-accent underline">
                {sentences.lookBack}
              </Link>
            </p>
          )}
          <DueToday />
          <Comes />
          <Awaited />
          <OfTheDay />
        </div>
      </div>
    </div>
  )
}

const Title = ({ id, to, children }: { id: string; to: string; children: ReactNode }) => (
  <h2 id={id} className="mb-1.5 text-[15px]">
    <Link to={to} className="hover:underline">
      {children}
    </Link>
  </h2>
)

const Line = ({ children }: { children: ReactNode }) => (
  <li className="flex min-h-8 items-center gap-2.5 border-t border-sand-200 py-1">{children}</li>
)

/** The first few, and how many there are besides. */
function Few<T>({ all, to, draw }: { all: T[]; to: string; draw: (one: T) => ReactNode }) {
  return (
    <ul>
      {all.slice(0, FEW).map(draw)}
      {all.length > FEW && (
        <Line>
          <Link to={to} className="text-accent underline">
            {sentences.more(all.length - FEW)}
          </Link>
        </Line>
      )}
    </ul>
  )
}

function foreseen(line: Dayline) {
  const last = line.forecast.at(-1)
  if (line.zero) return sentences.atYourPace(sentences.emptyBy(clock(line.zero)))
  return last ? sentences.atYourPace(sentences.leftBy(last.left, clock(last.at))) : ''
}

/** Why they are there. */
function Reasons() {
  const { data } = useQueue({ group: 'why', order: 'newest', where: {} })
  return (
    <ul className="mt-2">
      {data?.groups.map((g) => (
        <Line key={g.key}>
          <span className="min-w-0 flex-1 truncate">{sectionName(g.key)}</span>
          <span className="text-ink-500 tabular-nums">{digits(g.count)}</span>
        </Line>
      ))}
    </ul>
  )
}

function Comes() {
  const delivery = useDelivery().data
  if (!delivery) return null
  const today = delivery.coming.filter((c) => daysAway(c.at) === 0)
  return (
    <section aria-labelledby="day-comes" data-testid="day-comes">
      <Title id="day-comes" to="/delivery">
        {sentences.comes}
      </Title>
      {!today.length && (
        <p className="text-ink-500">
          {delivery.state.people.state === 'open' ? sentences.flows : sentences.nothingMoreComes}
        </p>
      )}
      <Few
        all={today}
        to="/delivery"
        draw={(c) => (
          <Line key={c.at}>
            <span className="min-w-0 flex-1 truncate">{comingName(c)}</span>
            <span className="text-ink-500">{about(c.expected)}</span>
          </Line>
        )}
      />
    </section>
  )
}

function DueToday() {
  const { data } = useFollowUps('date', {})
  if (!data) return null
  const groups = data.groups.filter((g) => g.key === 'late' || g.key === 'today')
  const count = groups.reduce((n, g) => n + g.count, 0)
  const all = groups.flatMap((g) => g.followUps)
  return (
    <section aria-labelledby="day-due" data-testid="day-due">
      <Title id="day-due" to="/follow-ups">
        {sentences.due}
      </Title>
      {!count && <p className="text-ink-500">{sentences.nothingIsDue}</p>}
      <ul>
        {all.slice(0, FEW).map((f) => (
          <Line key={f.uid}>
            <Waves priority={f.priority} />
            <FollowUpLink f={f} />
            <Chip tone={dueChip(f.due).tone}>{f.due.at < now() ? sentences.late : due(f.due)}</Chip>
          </Line>
        ))}
        {count > FEW && (
          <Line>
            <Link to="/one-by-one" className="text-accent underline">
              {sentences.more(count - FEW)}
            </Link>
          </Line>
        )}
      </ul>
    </section>
  )
}

const FollowUpLink = ({ f }: { f: FollowUpView }) => (
  <Link
    to={'/follow-ups/' + encodeURIComponent(f.uid)}
    className="min-w-0 flex-1 truncate hover:underline"
    title={f.title}
  >
    {f.title}
  </Link>
)

function Awaited() {
  const list = useWaiting().data
  if (!list) return null
  const all = list.pages.flatMap((p) => p.followUps)
  const count = list.pages[0].count
  return (
    <section aria-labelledby="day-awaited" data-testid="day-awaited">
      <Title id="day-awaited" to="/waiting">
        {sentences.awaited}
      </Title>
      {!count && <p className="text-ink-500">{sentences.nobodyIsAwaited}</p>}
      <ul>
        {all.slice(0, FEW).map((f) => (
          <Line key={f.uid}>
            <b className="max-w-[40%] shrink-0 truncate font-semibold text-plum-600">{f.with.name || f.with.address}</b>
            <FollowUpLink f={f} />
            <span className="shrink-0 text-[12px] text-ink-500">
              {f.waits.ask.at
                ? sentences.askAgain(long(f.waits.ask.at))
                : sentences.since(short(f.waits.since ?? f.made))}
            </span>
          </Line>
        ))}
        {count > FEW && (
          <Line>
            <Link to="/waiting" className="text-accent underline">
              {sentences.more(count - FEW)}
            </Link>
          </Line>
        )}
      </ul>
    </section>
  )
}

/** What comes back today, and what the calendar has. */
function OfTheDay() {
  const week: CalendarWeek | undefined = useWeek('').data
  const today = week?.days.find((d) => daysAway(d.start) === 0)
  if (!today) return null
  const back = today.back.filter((s) => s.position.return.at > now())
  return (
    <>
      <section aria-labelledby="day-returns" data-testid="day-returns">
        <Title id="day-returns" to="/later">
          {sentences.returns}
        </Title>
        {!back.length && <p className="text-ink-500">{sentences.nothingReturns}</p>}
        <Few
          all={back}
          to="/later"
          draw={(s) => (
            <Line key={s.id}>
              <span className="w-11 shrink-0 text-ink-500 tabular-nums">{clock(s.position.return.at)}</span>
              <b className="max-w-[35%] shrink-0 truncate font-semibold">{s.from}</b>
              <Link to={'/c/' + s.id} className="min-w-0 flex-1 truncate hover:underline">
                {s.title || s.subject || sentences.noSubject}
              </Link>
            </Line>
          )}
        />
      </section>
      {today.slots.length > 0 && (
        <section aria-labelledby="day-calendar" data-testid="day-calendar">
          <Title id="day-calendar" to="/calendar">
            {sentences.calendar}
          </Title>
          <Few
            all={today.slots}
            to="/calendar"
            draw={(e) => (
              <Line key={e.uid}>
                {!wholeDay(e.start) && (
                  <span className="w-11 shrink-0 text-ink-500 tabular-nums">{clock(e.start.at)}</span>
                )}
                <span className="min-w-0 flex-1 truncate">{e.title}</span>
                <span className="max-w-[40%] truncate text-[12px] text-ink-500">{e.place}</span>
              </Line>
            )}
          />
        </section>
      )}
    </>
  )
}
