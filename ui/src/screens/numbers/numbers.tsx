import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useParams } from 'react-router'
import { get } from '../../api/client'
import { team } from '../../api/base'
import type { FiguresView } from '../../api/desk'
import { digits } from '../../api/digits'
import { dayOfWeek, today, weekdays } from '../../api/times'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Aged } from './aged'
import { LookAhead } from './ahead'
import { AnswerLines } from './answerlines'
import { Answers } from './answers'
import { Became } from './became'
import { DayOf } from './day'
import { Days } from './days'
import { DigOut } from './dig'
import { HeldMail } from './held'
import { Hours } from './hours'
import { NumberLines } from './lines'
import { More } from './more'
import { NoticeLines } from './noticelines'
import { Pace } from './pace'
import { People } from './people'
import { Proof } from './proof'
import { Review } from './review'
import { Ruled } from './rules'
import { sentences } from './sentences'
import { StretchHead, useStretch } from './stretched'
import { Team } from './team'
import { Zeros } from './zeros'

/** What one's days come to, how one answers, what stands between one and others, and the lines behind each number. */
export function Numbers() {
  switch (useParams()['*']) {
    case 'lines':
      return <NumberLines />
    case 'notices':
      return <NoticeLines />
    case 'answers':
      return <Answers />
    case 'answers/lines':
      return <AnswerLines />
    case 'ahead':
      return <LookAhead />
    case 'review':
      return <Review />
    case 'dig':
      return <DigOut />
    case 'aged':
      return <Aged />
    case 'people':
      return <People />
  }
  return <Figures />
}

/** What a stretch of days comes to: a sentence, and pictures that open to what they count. */
function Figures() {
  const of = useStretch()
  const { span, stretch, running, first } = of
  const { data, error, isPlaceholderData, refetch } = useQuery({
    queryKey: ['figures', stretch.from, stretch.to],
    queryFn: () => get<FiguresView>(`/figures?from=${stretch.from}&to=${stretch.to}`),
    placeholderData: keepPreviousData,
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  const date = running ? today() : stretch.to
  return (
    <div
      className="h-full overflow-y-auto px-6 py-4 aria-busy:opacity-60 max-[700px]:px-3.5"
      data-testid="numbers"
      aria-busy={isPlaceholderData}
    >
      <StretchHead of={of}>{said(data)}</StretchHead>
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
        <Ruled data={data} />
        <HeldMail is={data.is} stretch={stretch} />
        <More data={data} />
        {team ? <Team data={data} /> : <Proof />}
      </div>
    </div>
  )
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
