import { useInfiniteQuery } from '@tanstack/react-query'
import { useNavigate, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { Counted, CountedLine } from '../../api/desk'
import { digits } from '../../api/digits'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Chip } from '../../kit/kit'
import { Row } from '../../kit/list'
import { actors, verbs } from '../history/verbs'
import { PagedLines } from './linespage'
import { sentences } from './sentences'

const asked = ['measure', 'details', 'by', 'from', 'to', 'weekday', 'hour']

/** What a number counts: the lines of the history, the newest first. */
export function NumberLines() {
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const of = new URLSearchParams(asked.flatMap((k) => (params.get(k) === null ? [] : [[k, params.get(k)!]]))).toString()
  const list = useInfiniteQuery({
    queryKey: ['figures', 'lines', of],
    queryFn: ({ pageParam }) => get<Counted>(`/figures/lines?${of}&before=${pageParam}`),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
    staleTime: 0,
  })
  const lines = list.data?.pages.flatMap((p) => p.lines) ?? []
  const go = (l: CountedLine) => l.conversation > 0 && void navigate('/c/' + l.conversation)
  const { current, choose } = useListed(lines, keyOf, (key) => 'line-' + key, go)
  const name = params.get('name') || sentences.numbers
  const rule = params.get('measure') === 'ruled' ? (/^“(.*)”/.exec(name)?.[1] ?? '') : ''
  const sum = lines.reduce((n, l) => n + l.n, 0)
  const [from, to] = [params.get('from') ?? '', params.get('to') ?? '']
  return (
    <PagedLines
      back={sentences.backToNumbers}
      backTo="/numbers"
      name={name}
      list={list}
      from={from}
      to={to}
      sum={sum}
      none={sentences.whatIsTakenBack}
    >
      {lines.map((l) => (
        <Row
          key={keyOf(l)}
          id={'line-' + keyOf(l)}
          testid="counted-line"
          title={l.text}
          current={l === current}
          className="flex items-baseline gap-3 px-3 py-1.5"
          onChoose={() => choose(l)}
          onOpen={() => go(l)}
        >
          <span className="w-32 shrink-0 text-[12px] text-ink-500">{long(l.at)}</span>
          <span className="min-w-0 flex-1 truncate">
            <span className="text-ink-500">{said(l)}</span> {textOf(l, rule) || sentences.several(digits(l.n))}
          </span>
          {l.n > 1 && l.text && <Chip>{digits(l.n)}</Chip>}
        </Row>
      ))}
    </PagedLines>
  )
}

/** What a line is about; of a rule that stands above, without its name. */
const textOf = (l: Pick<CountedLine, 'text'>, rule: string) =>
  rule && l.text.startsWith(rule + ': ') ? l.text.slice(rule.length + 2) : l.text

const keyOf = (l: CountedLine) => String(l.entry)
const said = (l: CountedLine) =>
  [l.actor === 'person' ? '' : actors[l.actor], verbs[l.kind] ?? l.kind].filter(Boolean).join(' ')
