import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { get } from '../../api/client'
import type { AnswersRow, AnswersView, Speed } from '../../api/desk'
import { digits } from '../../api/digits'
import { span } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { RadioGroup } from '../../kit/choose'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { TextLink } from './more'
import { answersOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import type { Stretch } from './stretch'
import { StretchHead, useStretch } from './stretched'
import { type Column, Table } from './table'

const MINUTE = 60_000
export type Clock = 'clock' | 'work'
type Sort = 'person' | 'domain' | 'project' | 'label'
const sorts: { id: Sort; name: string }[] = [
  { id: 'person', name: sentences.byPerson },
  { id: 'domain', name: sentences.byDomain },
  { id: 'project', name: sentences.byProject },
  { id: 'label', name: sentences.byLabel },
]
const clocks: { id: Clock; name: string }[] = [
  { id: 'work', name: sentences.byWorkingHours },
  { id: 'clock', name: sentences.byTheClock },
]

/** Minutes as people say them; none is within no working hours at all. */
export const took = (minutes: number) => (minutes ? span(minutes * MINUTE) : sentences.noTime)

/** How fast one answers and is answered: as spread, what was not answered, and by whom. */
export function Answers() {
  const of = useStretch()
  const { stretch } = of
  const [sort, setSort] = useState<Sort>(() => (fromAddress('of') as Sort) || 'person')
  const [clock, setClock] = useState<Clock>(() => (fromAddress('clock') as Clock) || 'work')
  useInAddress({ of: sort === 'person' ? '' : sort, clock: clock === 'work' ? '' : clock }, (was) => {
    setSort((was('of') as Sort) || 'person')
    setClock((was('clock') as Clock) || 'work')
  })
  const { data, error, isPlaceholderData, refetch } = useQuery({
    queryKey: ['figures', 'answers', stretch.from, stretch.to, sort],
    queryFn: () => get<AnswersView>(`/figures/answers?from=${stretch.from}&to=${stretch.to}&by=${sort}`),
    placeholderData: keepPreviousData,
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  return (
    <div
      className="h-full overflow-y-auto px-6 py-4 aria-busy:opacity-60 max-[700px]:px-3.5"
      data-testid="answers"
      aria-busy={isPlaceholderData}
    >
      <StretchHead of={of}>{said(data)}</StretchHead>
      <RadioGroup label={sentences.measuredBy} value={clock} options={clocks} className="mb-3" onChange={setClock} />
      <div className="grid grid-cols-2 gap-x-8 gap-y-4 max-[900px]:grid-cols-1">
        <Speeds own is={data.own} before={data.ownBefore} bounds={data.bounds} clock={clock} stretch={stretch} />
        <Speeds
          own={false}
          is={data.theirs}
          before={data.theirsBefore}
          bounds={data.bounds}
          clock={clock}
          stretch={stretch}
        />
        <Panel
          name={sentences.whoAnswersHow}
          testid="answers-by"
          className="col-span-full"
          says={data.more ? sentences.firstFiveHundred : sentences.whatIsAnAnswer}
        >
          <RadioGroup label={sentences.gatheredBy} value={sort} options={sorts} className="mb-2" onChange={setSort} />
          <By key={sort} data={data} sort={sort} clock={clock} stretch={stretch} />
        </Panel>
      </div>
    </div>
  )
}

/** How long answers took, as many as took so long, with how many were and were not given. */
function Speeds({
  own,
  is,
  before,
  bounds,
  clock,
  stretch,
}: {
  own: boolean
  is: Speed
  before: Speed
  bounds: number[]
  clock: Clock
  stretch: Stretch
}) {
  const spread = clock === 'work' ? is.work : is.clock
  const then = clock === 'work' ? before.work : before.clock
  const bars = clock === 'work' ? is.workBars : is.clockBars
  const most = Math.max(1, ...bars)
  const names = [...bounds.map((b) => sentences.upTo(took(b))), sentences.longer]
  const name = own ? sentences.youAnswer : sentences.theyAnswer
  const says = spread.n
    ? [
        sentences.halfAnswered(took(spread.median), took(spread.ninety)),
        then.n > 0 && sentences.itWas(took(then.median)),
      ]
        .filter(Boolean)
        .join(' ')
    : sentences.noneAnswered
  return (
    <Panel
      name={name}
      testid={own ? 'own-answers' : 'their-answers'}
      file={own ? 'how-fast-you-answer' : 'how-fast-you-are-answered'}
      says={says}
      behind={{ head: [sentences.answeredWithin, sentences.answers], rows: names.map((n, i) => [n, bars[i]]) }}
    >
      <div
        className="flex h-[88px] max-w-[520px] items-end gap-1.5 text-center text-[10.5px] text-ink-500"
        role="img"
        aria-label={says}
      >
        {bars.map((n, i) => (
          <span key={names[i]} className="flex min-w-0 flex-1 flex-col justify-end" title={`${names[i]}: ${n}`}>
            <span className="tabular-nums">{n || ''}</span>
            <span
              className={'rounded-t-[3px] ' + (n ? (own ? 'bg-accent' : 'bg-plum-600') : 'bg-sand-300')}
              style={{ height: n ? Math.max(3, (48 * n) / most) : 1 }}
            />
            <span className="mt-1 truncate">{i < bounds.length ? took(bounds[i]) : sentences.more}</span>
          </span>
        ))}
      </div>
      <p className="mt-1.5 flex flex-wrap gap-x-5 text-[12.5px]">
        <TextLink to={answersOf({ own, ...stretch, name })}>{sentences.answersGiven(digits(spread.n))}</TextLink>
        <TextLink
          to={answersOf({ own, open: true, ...stretch, name: own ? sentences.youDidNot : sentences.theyDidNot })}
        >
          {own ? sentences.notByYou(digits(is.open)) : sentences.notByThem(digits(is.open))}
        </TextLink>
      </p>
    </Panel>
  )
}

function By({ data, sort, clock, stretch }: { data: AnswersView; sort: Sort; clock: Clock; stretch: Stretch }) {
  const navigate = useNavigate()
  const link = (r: AnswersRow, own: boolean, open: boolean, n: number, name: string) =>
    n > 0 && <TextLink to={answersOf({ own, open, by: sort, key: r.key, ...stretch, name })}>{digits(n)}</TextLink>
  const columns: Column<AnswersRow>[] = [
    { id: 'name', name: sorts.find((s) => s.id === sort)!.name, worth: (r) => r.name },
    {
      id: 'own',
      name: sentences.youAnswered,
      worth: (r) => r.own.n,
      show: (r) => link(r, true, false, r.own.n, sentences.youAnsweredWhom(r.name)),
    },
    {
      id: 'own-speed',
      name: sentences.halfWithinShort,
      worth: (r) => (r.own.n ? Math.max(1, r.own[clock]) : 0),
      show: (r) => r.own.n > 0 && took(r.own[clock]),
    },
    {
      id: 'own-open',
      name: sentences.notAnswered,
      worth: (r) => r.own.open,
      show: (r) => link(r, true, true, r.own.open, sentences.youDidNotAnswer(r.name)),
      wide: true,
    },
    {
      id: 'theirs',
      name: sentences.theyAnswered,
      worth: (r) => r.theirs.n,
      show: (r) => link(r, false, false, r.theirs.n, sentences.theyAnsweredYou(r.name)),
    },
    {
      id: 'theirs-speed',
      name: sentences.halfWithinShort,
      worth: (r) => (r.theirs.n ? Math.max(1, r.theirs[clock]) : 0),
      show: (r) => r.theirs.n > 0 && took(r.theirs[clock]),
    },
    {
      id: 'theirs-open',
      name: sentences.notAnswered,
      worth: (r) => r.theirs.open,
      show: (r) => link(r, false, true, r.theirs.open, sentences.theyDidNotAnswer(r.name)),
      wide: true,
    },
  ]
  const open = (r: AnswersRow) =>
    void navigate(
      sort === 'person'
        ? '/person/' + encodeURIComponent(r.key)
        : answersOf({ own: true, by: sort, key: r.key, ...stretch, name: sentences.youAnsweredWhom(r.name) }),
    )
  if (!data.rows.length) return <p className="text-ink-500">{sentences.noneOfThat}</p>
  return (
    <Table
      name={sentences.whoAnswersHow}
      file="answers"
      columns={columns}
      rows={data.rows}
      keyOf={(r) => r.key}
      open={open}
      sort="own"
      testid="answers-table"
    />
  )
}

/** The answers of a stretch, in words. */
function said(v: AnswersView) {
  if (v.counting) return sentences.answersCounting
  const parts: string[] = []
  if (v.own.clock.n)
    parts.push(sentences.youAnsweredIn(digits(v.own.clock.n), took(v.own.work.median), took(v.own.clock.median)))
  if (v.theirs.clock.n)
    parts.push(
      sentences.youWereAnsweredIn(digits(v.theirs.clock.n), took(v.theirs.work.median), took(v.theirs.clock.median)),
    )
  if (v.begun) parts.push(sentences.youBegan(digits(v.began), digits(v.begun)))
  return parts.length ? parts.join(' ') : sentences.nobodyWrote
}
