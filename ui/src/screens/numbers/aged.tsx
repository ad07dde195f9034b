import { useQuery } from '@tanstack/react-query'
import { useNavigate, useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { AgedLine, AgedView } from '../../api/desk'
import { digits } from '../../api/digits'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Failed } from '../../kit/kit'
import { Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { LinesPage } from './linespage'
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
    <LinesPage
      back={sentences.backToAhead}
      backTo="/numbers/ahead"
      name={name}
      counted={data.more ? sentences.atLeast(digits(lines.length)) : digits(lines.length)}
      none={!lines.length && sentences.nothingOpen}
    >
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
    </LinesPage>
  )
}

const keyOf = (l: AgedLine) => l.uid || String(l.conversation)
