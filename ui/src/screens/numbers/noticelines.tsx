import { useInfiniteQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { get } from '../../api/client'
import type { NoticeLine, NoticesPage } from '../../api/desk'
import { long } from '../../api/times'
import { useListed } from '../../frame/listed'
import { Row } from '../../kit/list'
import { PagedLines } from './linespage'
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
  return (
    <PagedLines
      back={sentences.backToNumbers}
      backTo="/numbers"
      name={sentences.noticesShown}
      list={list}
      from={from}
      to={to}
      sum={lines.length}
      none={sentences.noNotices}
    >
      {lines.map((l) => (
        <Row
          key={keyOf(l)}
          id={'line-' + keyOf(l)}
          testid="counted-line"
          title={l.text}
          current={l === current}
          className="flex items-baseline gap-3 px-3 py-1.5 max-[700px]:flex-col max-[700px]:gap-0"
          onChoose={() => choose(l)}
          onOpen={nowhere}
        >
          <span className="w-32 shrink-0 text-[12px] text-ink-500">{long(l.at)}</span>
          <span className="min-w-0 flex-1">{l.text}</span>
        </Row>
      ))}
    </PagedLines>
  )
}

const keyOf = (l: NoticeLine) => String(l.id)
const nowhere = () => undefined
