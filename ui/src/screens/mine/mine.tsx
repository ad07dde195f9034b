import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { boxIn } from '../../api/base'
import { get } from '../../api/client'
import type { MineLine, MineView } from '../../api/desk'
import { date, daysAway, now, wholeDay } from '../../api/times'
import { flush, fromAddress, useInAddress } from '../../frame/address'
import { useListed } from '../../frame/listed'
import { RadioGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { sentences } from './sentences'

/** What is one's own to do in all boxes one works in, those due first before the others. */
export function Mine() {
  const list = useQuery({ queryKey: ['mine'], queryFn: () => get<MineView>('/mine/work') })
  const navigate = useNavigate()
  const [only, setOnly] = useState(() => fromAddress('box'))
  const all = list.data?.lines ?? []
  const boxes = [...new Set(all.map((l) => l.team))]
  const lines = only ? all.filter((l) => (l.team || 'own') === only) : all
  const open = (l: MineLine) => {
    const path = l.conversation ? '/c/' + l.conversation : '/follow-ups/' + encodeURIComponent(l.uid)
    const there = l.team ? l.box : 0
    if (there === boxIn(window.location.pathname)) return void navigate(path)
    flush()
    window.location.assign((there ? `/in/${there}` : '') + path) // the pages of each box are its own
  }
  const { current, at, setAt, choose } = useListed(
    lines,
    (l) => l.uid,
    (key) => 'mine-' + key,
    open,
  )
  useInAddress({ at, box: only }, (was) => {
    setAt(was('at'))
    setOnly(was('box'))
  })
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <Heading>{sentences.mine}</Heading>
        <p className="mt-1 mb-3 text-ink-500">{sentences.whatStandsHere}</p>
        {boxes.length > 1 && (
          <RadioGroup
            label={sentences.which}
            look="plain"
            value={only}
            options={[
              { id: '', name: sentences.all },
              ...boxes.map((b) => ({ id: b || 'own', name: b || sentences.yourOwn })),
            ]}
            onChange={setOnly}
          />
        )}
        {!lines.length && <Empty title={sentences.nothing}>{sentences.nothingYet}</Empty>}
        <List label={sentences.mine} empty={!lines.length} className="mt-3">
          {lines.map((l, i) => (
            <Row
              key={l.uid}
              id={'mine-' + l.uid}
              testid="mine"
              title={l.title}
              current={l === current}
              className="px-3 py-2"
              onChoose={() => choose(l)}
              onOpen={() => open(l)}
            >
              {(i === 0 || spanOf(lines[i - 1]!) !== spanOf(l)) && (
                <h2 className="mb-1 text-[11.5px] font-[650] text-ink-500">{spanOf(l)}</h2>
              )}
              <p className="flex items-baseline gap-2">
                <span className="min-w-0 truncate">{l.title}</span>
                {(l.team || boxes.length > 1) && (
                  <Chip tone={l.team ? 'with' : 'plain'}>{l.team || sentences.yourOwn}</Chip>
                )}
                {!!l.due && (
                  <span className={`ml-auto shrink-0 text-[12.5px] ${late(l) ? 'text-coral-600' : 'text-ink-500'}`}>
                    {date(l.due.at)}
                  </span>
                )}
              </p>
              {(l.with || l.why) && (
                <p className="truncate text-[12.5px] text-ink-500">
                  {[l.with, l.why && `“${l.why}”`].filter(Boolean).join(' · ')}
                </p>
              )}
            </Row>
          ))}
        </List>
        {list.data.more > 0 && <p className="pt-3 text-ink-500">{sentences.more(list.data.more)}</p>}
      </div>
    </div>
  )
}

const late = (l: MineLine) => !!l.due && (daysAway(l.due.at) < 0 || (!wholeDay(l.due) && l.due.at < now()))

/** Under which head it stands. */
function spanOf(l: MineLine): string {
  if (!l.due) return sentences.undated
  if (late(l)) return sentences.late
  const days = daysAway(l.due.at)
  if (days <= 0) return sentences.today
  if (days === 1) return sentences.tomorrow
  return days < 7 ? sentences.thisWeek : sentences.later
}
