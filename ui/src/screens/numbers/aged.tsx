import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { AgedLine, AgedView } from '../../api/desk'
import { digits } from '../../api/digits'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { sentences } from './sentences'

/** What is of an age, the oldest first. */
export function Aged() {
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const of = new URLSearchParams({ group: params.get('group') ?? '', of: params.get('of') ?? '' }).toString()
  const { data, error, refetch } = useQuery({
    queryKey: ['figures', 'aged', of],
    queryFn: () => get<AgedView>('/figures/aged?' + of),
    staleTime: 0,
  })
  const lines = data?.lines ?? []
  const go = (l: AgedLine) => void navigate(l.uid ? '/follow-ups/' + encodeURIComponent(l.uid) : '/c/' + l.conversation)
  const { current, choose } = useListed(lines, keyOf, (key) => 'line-' + key, go)
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  const name = params.get('name') || sentences.numbers
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <Link to="/numbers/ahead" className="text-[12.5px] text-accent hover:underline">
          {sentences.backToAhead}
        </Link>
        <Heading>{name}</Heading>
        <p className="mb-3 text-ink-500" data-testid="counted">
          {data.more ? sentences.atLeast(digits(lines.length)) : digits(lines.length)}
        </p>
        {!lines.length && <Empty title={sentences.nothingCounted}>{sentences.nothingOpen}</Empty>}
        <List label={name} empty={!lines.length}>
          {lines.map((l) => (
            <Row
              key={keyOf(l)}
              id={'line-' + keyOf(l)}
              testid="counted-line"
              title={l.title}
              current={l === current}
              className="flex items-baseline gap-3 px-3 py-1.5"
              onChoose={() => choose(l)}
              onOpen={() => go(l)}
            >
              <span className="w-32 shrink-0 text-[12px] text-ink-500">{long(l.since)}</span>
              <span className="min-w-0 flex-1 truncate">{l.title}</span>
            </Row>
          ))}
        </List>
      </div>
    </div>
  )
}

const keyOf = (l: AgedLine) => l.uid || String(l.conversation)
