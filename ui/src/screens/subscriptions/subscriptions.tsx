import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { get, newKey, post, put, told } from '../../api/client'
import type { DeliveryView, Subscription } from '../../api/desk'
import { digits } from '../../api/digits'
import { refresh } from '../../api/queries'
import { month, short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { RoundsAt } from '../delivery/rounds'
import { sentences } from './sentences'

/** All lists and newsletters: how much each sends, how much of it is opened, and the way out of many at once. */
export function Subscriptions() {
  const { data, error, refetch } = useQuery({
    queryKey: ['subscriptions'],
    queryFn: () => get<Subscription[]>('/subscriptions'),
    staleTime: 0,
  })
  const desk = useDesk()
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const [doing, setDoing] = useState('')
  const [week, setWeek] = useState(false)
  const [at, setAt] = useState({ days: 1 << 5, minute: 9 * 60 })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  const picked = data.filter((s) => chosen.has(s.list))
  const turn = (list: string) =>
    setChosen((c) => {
      const n = new Set(c)
      if (!n.delete(list)) n.add(list)
      return n
    })
  // One after the other, each with a key of its own: one that fails stops no other.
  const each = async (of: Subscription[], path: (s: Subscription) => string) => {
    let failed = 0
    for (const [i, s] of of.entries()) {
      setDoing(sentences.leaving(i + 1, of.length))
      await post(path(s), {}, newKey()).catch(() => failed++)
    }
    setDoing('')
    setChosen(new Set())
    refresh(['mail', 'rules'])
    void refetch()
    return failed
  }
  const leave = async () => {
    const can = picked.filter((s) => s.way === 'request' || s.way === 'mail')
    const failed = await each(can, (s) => `/conversations/${s.conversation}/leave`)
    desk.say({ text: sentences.outcome(can.length - failed, failed, picked.length - can.length) })
  }
  /** Each of them becomes a stream that comes at that time, as one slip. */
  const weekly = async () => {
    let failed = ''
    for (const [i, s] of picked.entries()) {
      setDoing(sentences.movingOf(i + 1, picked.length))
      const name = (s.from.name || s.from.address).replace(/[,;:"“”„«»\n]+/g, ' ').slice(0, 60)
      try {
        const { streams } = await get<DeliveryView>('/delivery')
        const known = streams.find((x) => x.along && x.name.toLowerCase() === name.trim().toLowerCase()) // made before
        const { id } = await put<{ id: string }>(
          '/delivery/streams',
          { id: known?.id ?? '', name, along: known?.along ?? 'machines', at, together: true },
          newKey(),
        )
        await post(
          `/conversations/${s.conversation}/stream`,
          { stream: id, scope: s.list.includes('@') ? 'sender' : 'list', words: '' },
          newKey(),
        )
      } catch (e) {
        failed ||= `${name}: ${told(e)}`
      }
    }
    setDoing('')
    setWeek(false)
    setChosen(new Set())
    refresh(['mail', 'rules', 'delivery'])
    desk.say(failed ? { text: failed, wrong: true } : { text: sentences.comesTogether(picked.length) })
  }
  const never = () => void each(picked, (s) => `/conversations/${s.conversation}/never`)
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-6 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-4xl">
        <Link to="/setup" className="text-ink-500 hover:underline">
          {sentences.setup}
        </Link>
        <Heading>{sentences.subscriptions}</Heading>
        <p className="mb-3 max-w-xl text-ink-500">{sentences.whatComesFrom}</p>
        {!data.length && <Empty title={sentences.noLists}>{sentences.listsAppear}</Empty>}
        {data.length > 0 && (
          <div
            className="sticky top-0 z-10 flex min-h-12 flex-wrap items-center gap-2 bg-sand-0 py-1.5"
            aria-live="polite"
          >
            {picked.length ? (
              <>
                <b>{sentences.chosen(picked.length)}</b>
                <Button size="middle" disabled={!!doing} onClick={() => void leave()}>
                  {sentences.leaveThem}
                </Button>
                <Button size="middle" quiet disabled={!!doing} onClick={never}>
                  {sentences.neverAgain}
                </Button>
                <Button
                  size="middle"
                  quiet
                  disabled={!!doing}
                  onClick={() => {
                    setChosen(new Set())
                    void desk.act('/subscriptions/bin', { conversations: picked.map((s) => s.conversation) })
                  }}
                >
                  {sentences.binAll}
                </Button>
                <Button size="middle" quiet disabled={!!doing} aria-expanded={week} onClick={() => setWeek(!week)}>
                  {sentences.onceAWeek}
                </Button>
                <span className="text-ink-500">{doing}</span>
                {week && (
                  <form
                    aria-label={sentences.onceAWeek}
                    className="flex w-full flex-wrap items-end gap-x-4 gap-y-2 rounded-[10px] border border-dashed border-tide-400 bg-tide-50 px-3.5 py-2.5"
                    onSubmit={(e) => {
                      e.preventDefault()
                      void weekly()
                    }}
                  >
                    <RoundsAt at={at} onEdit={setAt} />
                    <Button type="submit" size="middle" disabled={!!doing || !at.days}>
                      {sentences.haveItCome}
                    </Button>
                    <p className="w-full text-ink-500">{sentences.eachAsOneSlip}</p>
                  </form>
                )}
              </>
            ) : (
              <span className="text-ink-500">{sentences.chooseSome}</span>
            )}
          </div>
        )}
        {data.length > 0 && (
          <table className="w-full border-collapse" data-testid="subscriptions">
            <thead>
              <tr className="border-b-2 border-ink-900 text-left text-[11.5px] font-[650] text-ink-500">
                <th scope="col" className="w-full pb-1">
                  {sentences.list}
                </th>
                <th scope="col" className="pb-1 pl-5 text-right whitespace-nowrap">
                  {sentences.aMonth}
                </th>
                <th scope="col" className="pb-1 pl-5 whitespace-nowrap max-[700px]:hidden">
                  {sentences.opened}
                </th>
                <th scope="col" className="pb-1 pl-5 whitespace-nowrap max-[700px]:hidden">
                  {sentences.since}
                </th>
                <th scope="col" className="pb-1 pl-5 text-right max-[700px]:hidden">
                  {sentences.size}
                </th>
                <th scope="col" className="pb-1 pl-5 whitespace-nowrap">
                  {sentences.ways}
                </th>
              </tr>
            </thead>
            <tbody>
              {data.map((s) => (
                <Row key={s.list} s={s} on={chosen.has(s.list)} turn={() => turn(s.list)} />
              ))}
            </tbody>
          </table>
        )}
      </div>
    </div>
  )
}

const ways: Record<string, string> = { request: sentences.byRequest, mail: sentences.byMail, page: sentences.onItsPage }
const sizeOf = (n: number) =>
  n < 1 << 20 ? sentences.kb(Math.ceil(n / 1024)) : sentences.mb((n / (1 << 20)).toFixed(1))

function Row({ s, on, turn }: { s: Subscription; on: boolean; turn: () => void }) {
  const name = s.from.name || s.from.address
  return (
    <tr className="border-b border-sand-200 align-middle" data-list={s.list}>
      <td className="max-w-0 py-1.5">
        <span className="flex items-center gap-2.5">
          <Checkbox label={sentences.choose(name)} checked={on} onChange={turn} />
          <Link to={'/c/' + s.conversation} className="min-w-0 hover:underline">
            <b className="block truncate">{name}</b>
            <span className="block truncate text-[12px] text-ink-500">{s.list}</span>
          </Link>
        </span>
      </td>
      <td className="py-1.5 pl-5 text-right tabular-nums">{digits(s.month)}</td>
      <td className="py-1.5 pl-5 whitespace-nowrap tabular-nums max-[700px]:hidden">
        {sentences.openedOf(digits(s.opened), digits(s.messages))}
        {s.answered > 0 && sentences.answered(digits(s.answered))}
      </td>
      <td className="py-1.5 pl-5 whitespace-nowrap max-[700px]:hidden">{month(s.since)}</td>
      <td className="py-1.5 pl-5 text-right whitespace-nowrap tabular-nums max-[700px]:hidden">{sizeOf(s.size)}</td>
      <td className="py-1.5 pl-5 whitespace-nowrap">
        {s.stillSent > 0 ? (
          <Chip tone="late">{sentences.stillSends(s.stillSent)}</Chip>
        ) : s.leftAt > 0 ? (
          <Chip>{sentences.left(short(s.leftAt))}</Chip>
        ) : s.page ? (
          <a href={s.page} target="_blank" rel="noopener noreferrer nofollow" className="text-accent hover:underline">
            {sentences.onItsPage}
          </a>
        ) : (
          <span className="text-ink-500">{ways[s.way] ?? sentences.doesNotSay}</span>
        )}
      </td>
    </tr>
  )
}
