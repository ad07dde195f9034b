import { CaretLeftIcon, CaretRightIcon } from '@phosphor-icons/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useParams } from 'react-router'
import { get } from '../../api/client'
import { team } from '../../api/base'
import type { FiguresView } from '../../api/desk'
import { digits } from '../../api/digits'
import { useSettings } from '../../api/queries'
import { dateOf, dayOfWeek, today, weekdays } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { IconButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Became } from './became'
import { DayOf } from './day'
import { Days } from './days'
import { Hours } from './hours'
import { NumberLines } from './lines'
import { More } from './more'
import { Pace } from './pace'
import { Proof } from './proof'
import { sentences } from './sentences'
import { beside, type Span, spans, type Stretch, stretchOf } from './stretch'
import { Zeros } from './zeros'

const called = {
  day: {
    name: sentences.aDay,
    before: sentences.dayBefore,
    after: sentences.dayAfter,
    soFar: sentences.todaySoFar,
  },
  week: {
    name: sentences.aWeek,
    before: sentences.weekBefore,
    after: sentences.weekAfter,
    soFar: sentences.weekSoFar,
  },
  quarter: {
    name: sentences.aQuarter,
    before: sentences.quarterBefore,
    after: sentences.quarterAfter,
    soFar: sentences.quarterSoFar,
  },
  year: {
    name: sentences.aYear,
    before: sentences.yearBefore,
    after: sentences.yearAfter,
    soFar: sentences.yearSoFar,
  },
}
const starts = { monday: 1, saturday: 6, sunday: 0 } as const

/** What one's days come to, and the lines behind each number. */
export const Numbers = () => (useParams()['*'] === 'lines' ? <NumberLines /> : <Figures />)

/** What a stretch of days comes to: a sentence, and pictures that open to what they count. */
function Figures() {
  const [span, setSpan] = useState<Span>(() => (fromAddress('span') as Span) || 'week')
  const [at, setAt] = useState(() => fromAddress('at'))
  const week = useSettings().data?.week
  const first = starts[(week?.first || 'monday') as keyof typeof starts]
  const stretch = stretchOf(span, at || today(), first)
  const now = stretchOf(span, today(), first)
  const { data, error, refetch } = useQuery({
    queryKey: ['figures', stretch.from, stretch.to],
    queryFn: () => get<FiguresView>(`/figures?from=${stretch.from}&to=${stretch.to}`),
    placeholderData: keepPreviousData,
    staleTime: 0,
  })
  const go = (by: -1 | 1) => {
    const to = beside(stretch, by)
    if (to <= today()) setAt(stretchOf(span, to, first).from === now.from ? '' : to)
  }
  useInAddress({ span: span === 'week' ? '' : span, at }, (was) => {
    setSpan((was('span') as Span) || 'week')
    setAt(was('at'))
  })
  useCommands([
    { id: 'stretch-before', name: called[span].before, keys: ['ArrowLeft', 'PageUp'], run: () => go(-1) },
    { id: 'stretch-after', name: called[span].after, keys: ['ArrowRight', 'PageDown'], run: () => go(1) },
  ])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  const running = stretch.from === now.from
  const date = running ? today() : stretch.to
  return (
    <div className="h-full overflow-y-auto px-6 py-4 max-[700px]:px-3.5" data-testid="numbers">
      <div className="mb-3.5 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Heading>{titleOf(span, stretch, running)}</Heading>
        <RadioGroup
          label={sentences.whichStretch}
          value={span}
          options={spans.map((id) => ({ id, name: called[id].name }))}
          onChange={setSpan}
        />
        <span className="flex">
          <IconButton label={called[span].before} onClick={() => go(-1)}>
            <CaretLeftIcon size={15} aria-hidden />
          </IconButton>
          <IconButton label={called[span].after} disabled={running} onClick={() => go(1)}>
            <CaretRightIcon size={15} aria-hidden />
          </IconButton>
        </span>
        <p className="min-w-64 flex-1 text-ink-700" data-testid="said">
          {said(data)}
        </p>
      </div>
      <div className="grid grid-cols-3 gap-x-6 gap-y-4 max-[1150px]:grid-cols-2 max-[760px]:grid-cols-1">
        <Became is={data.is} stretch={stretch} />
        {span === 'day' || (span === 'week' && running) ? (
          <DayOf date={date} today={date === today()} />
        ) : (
          <Days data={data} />
        )}
        <Pace is={data.is} stretch={stretch} />
        <Zeros data={data} first={first} />
        <Hours is={data.is} stretch={stretch} first={first} />
        <More data={data} />
        {!team && <Proof />}
      </div>
    </div>
  )
}

function titleOf(span: Span, s: Stretch, running: boolean) {
  if (running) return called[span].soFar
  switch (span) {
    case 'day':
      return dateOf(s.from)
    case 'week':
      return sentences.weekFrom(dateOf(s.from))
    case 'quarter':
      return sentences.quarterOf(Math.floor(Number(s.from.slice(5, 7)) / 3) + 1, s.from.slice(0, 4))
    case 'year':
      return s.from.slice(0, 4)
  }
}

/** The stretch in words. */
function said(data: FiguresView) {
  const { is, before } = data
  if (data.counting) return sentences.stillCounting
  if (!data.first) return sentences.nothingYet
  const parts = [sentences.cameAndDecided(digits(is.came), digits(is.decided))]
  if (is.took.n >= 5) parts.push(sentences.halfOfYours(is.took.median))
  const sums = new Map<number, number>()
  for (const d of data.days) sums.set(dayOfWeek(d.date), (sums.get(dayOfWeek(d.date)) ?? 0) + d.decided)
  const [heavy] = [...sums].sort((a, b) => b[1] - a[1])
  if (data.days.length > 1 && heavy && heavy[1] > 0) parts.push(sentences.heaviest(weekdays('long')[heavy[0]]))
  if (data.known && before.decided > 0) parts.push(sentences.than(digits(before.decided)))
  parts.push(data.team ? sentences.sumsOfTheTeam : sentences.youAlone)
  return parts.join(' ')
}
