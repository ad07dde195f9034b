import { useInfiniteQuery } from '@tanstack/react-query'
import { useNavigate, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { AnswerLine, AnswerLines as Page } from '../../api/desk'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Row } from '../../kit/list'
import { took } from './answers'
import { PagedLines } from './linespage'
import { sentences } from './sentences'

const asked = ['from', 'to', 'own', 'open', 'by', 'key']

/** The answers that a number counts, the newest first. */
export function AnswerLines() {
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const of = new URLSearchParams(asked.flatMap((k) => (params.get(k) === null ? [] : [[k, params.get(k)!]]))).toString()
  const list = useInfiniteQuery({
    queryKey: ['figures', 'answers', 'lines', of],
    queryFn: ({ pageParam }) => get<Page>(`/figures/answers/lines?${of}&after=${encodeURIComponent(pageParam)}`),
    initialPageParam: '',
    getNextPageParam: (last) => last.next || undefined,
    staleTime: 0,
  })
  const lines = list.data?.pages.flatMap((p) => p.lines) ?? []
  const go = (l: AnswerLine) => void navigate('/c/' + l.conversation)
  const { current, choose } = useListed(lines, keyOf, (key) => 'line-' + key, go)
  const name = params.get('name') || sentences.answers
  const [from, to] = [params.get('from') ?? '', params.get('to') ?? '']
  return (
    <PagedLines
      back={sentences.backToAnswers}
      backTo="/numbers/answers"
      name={name}
      list={list}
      from={from}
      to={to}
      sum={lines.length}
      none={sentences.whatIsAnAnswer}
    >
      {lines.map((l) => (
        <Row
          key={keyOf(l)}
          id={'line-' + keyOf(l)}
          testid="counted-line"
          title={l.subject}
          current={l === current}
          className="grid grid-cols-[128px_minmax(0,1fr)_auto] items-baseline gap-3 px-3 py-1.5"
          onChoose={() => choose(l)}
          onOpen={() => go(l)}
        >
          <span className="text-[12px] text-ink-500">{long(l.answered || l.asked)}</span>
          <span className="min-w-0 truncate">
            <b className="font-semibold">{l.name}</b> {l.subject}
          </span>
          <span className="text-[12px] whitespace-nowrap text-ink-500 tabular-nums">
            {l.answered ? sentences.tookBoth(took(l.work), took(l.clock)) : sentences.notSoFar}
          </span>
        </Row>
      ))}
    </PagedLines>
  )
}

const keyOf = (l: AnswerLine) => `${l.conversation}-${l.asked}-${l.address}`
