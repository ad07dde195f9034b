import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { get, keyed, post, put, told } from '../../api/client'
import type { ReviewView } from '../../api/desk'
import type { Rounds } from '../../api/gen/delivery'
import type { Decided } from '../../api/gen/journal'
import type { Advice } from '../../api/gen/numbers'
import { clock } from '../../api/clock'
import { digits } from '../../api/digits'
import { dateOf, minutes, now, plural, span } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { RoundsAt } from '../delivery/rounds'
import { took } from './answers'
import { TextLink } from './more'
import { sentences } from './sentences'
import { of } from './sorts'
import { Views } from './views'

const key = ['review']

/** A week looked back on: ten lines at most, and up to three offers, each a key to take or to refuse. */
export function Review() {
  const client = useQueryClient()
  const { data, error, refetch } = useQuery({ queryKey: key, queryFn: () => get<ReviewView>('/review'), staleTime: 0 })
  const [said, setSaid] = useState('')
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false) // what stands there has been answered, and is read anew
  const [once] = useState(keyed)
  const isNew = data?.new
  useEffect(() => {
    if (isNew) void post('/review/looked').then(() => client.invalidateQueries({ queryKey: ['dayline'] }))
  }, [isNew, client])
  const answer = (a: Advice | undefined, take: boolean) => {
    if (!a || busy) return
    setBusy(true)
    const asked = take
      ? post<Decided>('/review/take', { key: a.key }, once({ key: a.key }))
      : post('/review/refuse', { key: a.key })
    void asked
      .then((d) => {
        setSaid(take ? (d as Decided).text : sentences.staysAway)
        setWrong('')
        return client.invalidateQueries({ queryKey: key })
      })
      .catch((e: unknown) => setWrong(told(e)))
      .finally(() => setBusy(false))
  }
  useCommands([
    ...[0, 1, 2].map((i) => ({
      id: 'take-' + i,
      name: sentences.takeOffer(i + 1),
      keys: [keys[i]],
      run: () => answer(data?.offers[i], true),
    })),
    ...[0, 1, 2].map((i) => ({
      id: 'refuse-' + i,
      name: sentences.refuseOffer(i + 1),
      keys: ['Shift+' + keys[i]],
      run: () => answer(data?.offers[i], false),
    })),
  ])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto px-6 py-4 max-[700px]:px-3.5" data-testid="review">
      <Views />
      <Heading>{sentences.weekInReview}</Heading>
      <p className="mb-3 text-[12.5px] text-ink-500">{sentences.fromTo(dateOf(data.from), dateOf(data.to))}</p>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-10 gap-y-5 max-[900px]:grid-cols-1">
        <ul className="max-w-xl border-t-2 border-ink-900" data-testid="review-lines">
          {lines(data).map((l) => (
            <li key={l} className="border-b border-sand-200 py-1.5">
              {l}
            </li>
          ))}
          {data.often.length > 0 && (
            <li className="border-b border-sand-200 py-1.5">
              {sentences.snoozedOften(data.often.length)}{' '}
              {data.often.slice(0, 5).map((o, i) => (
                <span key={o.conversation}>
                  {i > 0 && ' · '}
                  <TextLink to={'/c/' + o.conversation}>{sentences.titleTimes(o.title, o.times)}</TextLink>
                </span>
              ))}
            </li>
          )}
        </ul>
        <section aria-label={sentences.whatFollows} className="border-t-2 border-ink-900 pt-2">
          <h2 className="text-[13.5px] font-[650]">{sentences.whatFollows}</h2>
          <p className="mb-2 text-[12.5px] text-ink-500" aria-live="polite" data-testid="review-said">
            {said || (data.offers.length ? sentences.whatFollowsHint : sentences.nothingFollows)}
          </p>
          {wrong && <Notice className="mb-2">{wrong}</Notice>}
          <ol>
            {data.offers.map((a, i) => (
              <li key={a.key} data-offer={a.key} className="border-b border-sand-200 py-2.5">
                <p className="mb-1.5">{why(a)}</p>
                <span className="flex flex-wrap gap-2">
                  <Button size="small" onClick={() => answer(a, true)}>
                    {does(a)} <kbd className="ml-1 font-sans text-[11px] opacity-80">{keys[i]}</kbd>
                  </Button>
                  <Button size="small" ground="quiet" onClick={() => answer(a, false)}>
                    {sentences.no}{' '}
                    <kbd className="ml-1 font-sans text-[11px] opacity-80">{sentences.shiftAnd(keys[i])}</kbd>
                  </Button>
                </span>
              </li>
            ))}
          </ol>
          <When
            at={data.at}
            onEdit={(at) => void put('/review/at', at).then(() => client.invalidateQueries({ queryKey: key }))}
          />
        </section>
      </div>
    </div>
  )
}

const keys = ['e', 'r', 'u']

/** When the week is to be looked back on. */
function When({ at, onEdit }: { at: Rounds; onEdit: (at: Rounds) => void }) {
  return (
    <div className="mt-4">
      <Checkbox
        id="review-on"
        checked={at.days > 0}
        onChange={(on) => onEdit(on ? { days: 1 << 5, minute: 16 * 60 } : { days: 0, minute: 0 })}
      >
        {sentences.remindMe}
      </Checkbox>
      {at.days > 0 && (
        <div className="mt-1 ml-6">
          <RoundsAt id="review-at" at={at} onEdit={onEdit} />
        </div>
      )}
    </div>
  )
}

/** The week in lines, each of which says one thing. */
function lines(v: ReviewView) {
  const { is, before } = v
  const out = [
    sentences.cameAndDecided(digits(is.came), digits(is.decided)) +
      (v.known ? ' ' + sentences.than(digits(before.decided)) : ''),
  ]
  if (v.zeros.of) out.push(sentences.zeroLine(v.zeros.days, v.zeros.of, v.zeros.run))
  if (is.took.n >= 5)
    out.push(
      sentences.halfOfYours(is.took.median) +
        ' ' +
        sentences.atFirst(Math.round((100 * is.atFirst) / Math.max(1, is.own))),
    )
  if (v.own.clock.n)
    out.push(sentences.youAnsweredIn(digits(v.own.clock.n), took(v.own.work.median), took(v.own.clock.median)))
  if (v.theirs.clock.n)
    out.push(
      sentences.youWereAnsweredIn(digits(v.theirs.clock.n), took(v.theirs.work.median), took(v.theirs.clock.median)),
    )
  if (v.mine)
    out.push(
      sentences.waitsLongest(v.mine.name || v.mine.address, span(Math.max(1, now() - (v.mine.waitForMeSince ?? 0)))),
    )
  if (v.forThem)
    out.push(
      sentences.youWaitLongest(
        v.forThem.name || v.forThem.address,
        span(Math.max(1, now() - (v.forThem.waitForThemSince ?? 0))),
      ),
    )
  const done = of(is.work, 'in-time', 'done', 'late')
  if (is.work.length) out.push(sentences.workLine(of(is.work, 'made'), done, of(is.work, 'late'), of(is.work, 'moved')))
  if (v.fullest)
    out.push(sentences.nextWeek(minutes(v.due), dateOf(v.fullest.date), minutes(v.fullest.due + v.fullest.events)))
  return out
}

function why(a: Advice) {
  switch (a.kind) {
    case 'rule':
      return a.name
    case 'leave':
      return sentences.neverOpened(a.name, a.n)
    case 'drop':
      return sentences.putOffOften(a.name, a.n)
    case 'ask':
      return sentences.mostlyLate(a.name, a.n, a.of)
    case 'round':
      return sentences.idleRound(clock(a.minute), a.n, plural(a.of, sentences.dayCount))
  }
}

function does(a: Advice) {
  switch (a.kind) {
    case 'rule':
      return sentences.makeRule(a.words)
    case 'leave':
      return sentences.leaveIt
    case 'drop':
      return sentences.dropIt
    case 'ask':
      return sentences.askTomorrow
    case 'round':
      return sentences.doWithout(clock(a.minute))
  }
}
