import { useInfiniteQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { Counted, CountedLine } from '../../api/desk'
import { digits } from '../../api/digits'
import { dateOf, long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Earlier } from '../../kit/earlier'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { actors, verbs } from '../history/verbs'
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
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loading} />
  const sum = lines.reduce((n, l) => n + l.n, 0)
  const [from, to] = [params.get('from') ?? '', params.get('to') ?? '']
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <Link to={'/numbers'} className="text-[12.5px] text-accent hover:underline">
          {sentences.backToNumbers}
        </Link>
        <Heading>{params.get('name') || sentences.numbers}</Heading>
        <p className="mb-3 text-ink-500" data-testid="counted">
          {from === to ? dateOf(from) : sentences.fromTo(dateOf(from), dateOf(to))}:{' '}
          {list.hasNextPage ? sentences.atLeast(digits(sum)) : digits(sum)}
        </p>
        {!lines.length && <Empty title={sentences.nothingCounted}>{sentences.whatIsTakenBack}</Empty>}
        <List label={params.get('name') || sentences.numbers} empty={!lines.length}>
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
                <span className="text-ink-500">{said(l)}</span> {l.text || sentences.several(digits(l.n))}
              </span>
              {l.n > 1 && l.text && <Chip>{digits(l.n)}</Chip>}
            </Row>
          ))}
        </List>
        <Earlier list={list}>{sentences.earlier}</Earlier>
      </div>
    </div>
  )
}

const keyOf = (l: CountedLine) => String(l.entry)
const said = (l: CountedLine) =>
  [l.actor === 'person' ? '' : actors[l.actor], verbs[l.kind] ?? l.kind].filter(Boolean).join(' ')
