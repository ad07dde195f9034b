import { useInfiniteQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { NoticeLine, NoticesPage } from '../../api/desk'
import { digits } from '../../api/digits'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Earlier } from '../../kit/earlier'
import { Failed } from '../../kit/kit'
import { Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { countedOf } from './counted'
import { LinesPage } from './linespage'
import { sentences } from './sentences'

/** The notifications that one was shown on some days, the newest first. */
export function NoticeLines() {
  const [params] = useSearchParams()
  const [from, to] = [params.get('from') ?? '', params.get('to') ?? '']
  const of = new URLSearchParams({ from, to }).toString()
  const list = useInfiniteQuery({
    queryKey: ['figures', 'notices', of],
    queryFn: ({ pageParam }) => get<NoticesPage>(`/figures/notices?${of}&before=${pageParam}`),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next || undefined,
    staleTime: 0,
  })
  const lines = list.data?.pages.flatMap((p) => p.lines) ?? []
  const { current, choose } = useListed(lines, keyOf, (key) => 'line-' + key, nowhere)
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loading} />
  return (
    <LinesPage
      back={sentences.backToNumbers}
      backTo="/numbers"
      name={sentences.noticesShown}
      counted={countedOf(from, to, list.hasNextPage ? sentences.atLeast(digits(lines.length)) : digits(lines.length))}
      none={!lines.length && sentences.noNotices}
      after={<Earlier list={list}>{sentences.earlier}</Earlier>}
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
          onOpen={nowhere}
        >
          <span className="w-32 shrink-0 text-[12px] text-ink-500">{long(l.at)}</span>
          <span className="min-w-0 flex-1 truncate">{l.text}</span>
        </Row>
      ))}
    </LinesPage>
  )
}

const keyOf = (l: NoticeLine) => String(l.id)
const nowhere = () => undefined
