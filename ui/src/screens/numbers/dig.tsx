import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { scaleLinear } from 'd3-scale'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { get, put, told } from '../../api/client'
import type { DigView } from '../../api/desk'
import type { Digging } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { dateOf, minutes, plural } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { Button } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { Panel } from './panel'
import { sentences } from './sentences'
import { Views } from './views'

const choices = [1, 2, 3, 6].map((id) => ({ id, name: minutes(10 * id) }))
const WIDTH = 560
const HEIGHT = 130

/** How an inbox of thousands comes to zero, in pieces of ten minutes; what to do in the next; how far it has come. */
export function DigOut() {
  const navigate = useNavigate()
  const client = useQueryClient()
  const [tried, setTried] = useState(0)
  const [wrong, setWrong] = useState('')
  const { data, error, refetch } = useQuery({
    queryKey: ['dig', tried],
    queryFn: () => get<DigView>('/dig?tens=' + tried),
    placeholderData: keepPreviousData,
    staleTime: 0,
  })
  const begin = (tens: number) =>
    put('/dig', { tens })
      .then(() => {
        setTried(0)
        setWrong('')
        return client.invalidateQueries({ queryKey: ['dig'] })
      })
      .catch((e: unknown) => setWrong(told(e)))
  const next = data?.next[0]
  const go = () => next && void navigate(placeOf(next))
  useCommands([{ id: 'dig-next', name: sentences.nextTen, keys: ['e'], run: go }])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto px-6 py-4 max-[700px]:px-3.5" data-testid="dig">
      <Views />
      <div className="mb-3.5 flex flex-wrap items-baseline gap-x-4 gap-y-1.5">
        <Heading>{sentences.diggingOut}</Heading>
        <p className="min-w-64 flex-1 text-ink-700" data-testid="said">
          {said(data)}
        </p>
      </div>
      {wrong && <Notice className="mb-3">{wrong}</Notice>}
      {data.steps.length > 0 && (
        <div className="grid grid-cols-2 gap-x-8 gap-y-5 max-[900px]:grid-cols-1">
          <Panel
            name={sentences.thePlan}
            testid="dig-plan"
            file="plan"
            says={data.pace ? sentences.atPace(data.pace) : sentences.atUsualPace}
            behind={{
              head: [sentences.digStep, sentences.conversations, sentences.decisions, sentences.dueMinutes],
              rows: data.steps.map((s) => [stepOf(s), s.conversations, s.decisions, Math.ceil(s.seconds / 60)]),
            }}
          >
            <ol>
              {data.steps.map((s) => (
                <li key={s.kind} className="flex items-baseline gap-3 border-b border-sand-200 py-1.5">
                  <span className="min-w-0 flex-1">{stepOf(s)}</span>
                  <span className="text-ink-500 tabular-nums">{minutes(Math.ceil(s.seconds / 60))}</span>
                </li>
              ))}
            </ol>
            <div className="mt-3 flex flex-wrap items-center gap-3">
              <RadioGroup label={sentences.aDayLong} value={data.tens} options={choices} onChange={setTried} />
              {data.begun && data.tens && tried === 0 ? (
                <Button ground="quiet" size="small" onClick={() => void begin(0)}>
                  {sentences.digNoMore}
                </Button>
              ) : (
                <Button size="small" onClick={() => void begin(data.tens)}>
                  {data.begun ? sentences.keepThat : sentences.beginDigging}
                </Button>
              )}
            </div>
          </Panel>
          <Panel name={sentences.nextTen} testid="dig-next" says={sentences.nextTenHint}>
            <ol>
              {data.next.map((s) => (
                <li key={s.kind} className="border-b border-sand-200 py-1.5">
                  {stepOf(s)}
                  {s.who.length > 0 && (
                    <p className="text-[12.5px] text-ink-500">
                      {s.who
                        .slice(0, 12)
                        .map((h) => sentences.titleTimes(h.name || h.address, h.n))
                        .join(' · ')}
                    </p>
                  )}
                </li>
              ))}
            </ol>
            <Button className="mt-3" onClick={go}>
              {sentences.goOn} <kbd className="ml-1 font-sans text-[11px] opacity-80">e</kbd>
            </Button>
          </Panel>
          {data.begun && <Progress data={data} />}
        </div>
      )}
    </div>
  )
}

/** How many were left on each evening since it was begun, against the way that was planned. */
function Progress({ data }: { data: DigView }) {
  const points = [{ date: data.begun, left: data.leftThen }, ...data.days]
  const most = Math.max(1, ...points.map((p) => p.left))
  const x = scaleLinear([0, Math.max(1, points.length)], [4, WIDTH - 4])
  const y = scaleLinear([0, most], [HEIGHT - 16, 8])
  const left = data.left
  const path = points.map((p, i) => `${i ? 'L' : 'M'}${x(i)},${y(p.left)}`).join('') + `L${x(points.length)},${y(left)}`
  return (
    <Panel
      name={sentences.howFar}
      testid="dig-progress"
      className="col-span-full"
      file="digging-out"
      says={sentences.sinceThen(dateOf(data.begun), digits(data.leftThen), digits(left))}
      behind={{ head: [sentences.day, sentences.leftInTheEvening], rows: points.map((p) => [dateOf(p.date), p.left]) }}
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-[640px]" aria-hidden>
        <path d={path} fill="none" stroke="var(--accent)" strokeWidth={2} />
        <line x1={4} x2={WIDTH - 4} y1={y(0)} y2={y(0)} stroke="var(--sand-300)" />
        <circle cx={x(points.length)} cy={y(left)} r={3.5} fill="var(--coral-600)" />
      </svg>
    </Panel>
  )
}

/** Where a step is done. */
const placeOf = (s: Digging) =>
  s.kind === 'old' ? '/senders?tray=fresh' : s.kind === 'senders' ? '/senders' : '/?tray=sit'

function stepOf(s: Digging) {
  switch (s.kind) {
    case 'old':
      return sentences.digOld(digits(s.conversations))
    case 'senders':
      return sentences.digSenders(plural(s.decisions, sentences.sender), digits(s.conversations))
    default:
      return sentences.digSingly(plural(s.conversations, sentences.conversation))
  }
}

function said(v: DigView) {
  if (!v.left) return sentences.nothingToDig
  const parts = [sentences.wholeTakes(digits(v.left), plural(v.whole, sentences.tenOf, sentences.tensOf))]
  if (v.end) parts.push(sentences.doneOn(minutes(10 * v.tens), dateOf(v.end)))
  return parts.join(' ')
}
