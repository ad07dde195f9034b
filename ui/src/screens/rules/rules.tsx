import { ArrowDownIcon, ArrowUpIcon } from '@phosphor-icons/react'
import { Link, useNavigate, useParams } from 'react-router'
import { post, told } from '../../api/client'
import type { RuleView } from '../../api/desk'
import { digits } from '../../api/digits'
import { refresh } from '../../api/queries'
import { useOffers, useRules } from './asking'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, IconButton, TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Rule } from './rule'
import { Sieve } from './sieve'
import { sentences } from './sentences'

/** All rules, or one of them. */
export const Rules = () => (useParams().id ? <Rule /> : <All />)

/** What one does again and again, as rules to look at: each is offered once. */
function Offers() {
  const { data } = useOffers()
  const desk = useDesk()
  if (!data?.length) return null
  const refuse = (id: number) =>
    void post(`/rules/offers/${id}/refuse`)
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
      .finally(() => refresh(['rules', 'mail']))
  return (
    <section aria-label={sentences.offered} className="mb-4 rounded-[10px] bg-tide-50 px-3.5 py-2" data-testid="offers">
      <h2 className="text-[14px]">{sentences.offered}</h2>
      <ul>
        {data.map((o) => (
          <li key={o.id} className="flex flex-wrap items-baseline gap-x-3 gap-y-1 py-1" data-offer={o.id}>
            <span className="min-w-0 flex-1">
              {o.text} <b>{o.words}</b>?
            </span>
            <Link
              className="text-accent hover:underline"
              to={'/rules/new?' + new URLSearchParams({ words: o.words, offer: String(o.id) }).toString()}
            >
              {sentences.lookAtIt}
            </Link>
            <TextButton small onClick={() => refuse(o.id)}>
              {sentences.noThanks}
            </TextButton>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** All rules in their order, with what each has done. */
function All() {
  const { data, error, refetch } = useRules()
  const navigate = useNavigate()
  const desk = useDesk()
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheRules} />
  const rules = data.filter((r) => !r.away)
  const away = data.filter((r) => r.away)
  const move = async (i: number, by: number) => {
    const ids = rules.map((r) => r.id)
    ids.splice(i + by, 0, ...ids.splice(i, 1))
    await desk.act('/rules/order', { ids })
  }
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-6 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <Link to="/setup" className="text-ink-500 hover:underline">
          {sentences.setup}
        </Link>
        <div className="mb-1 flex flex-wrap items-end justify-between gap-3">
          <Heading>{sentences.rules}</Heading>
          <Button onClick={() => void navigate('/rules/new')}>{sentences.newRule}</Button>
        </div>
        <p className="mb-4 max-w-xl text-ink-500">{sentences.rulesAre}</p>
        <Offers />
        {!rules.length && <Empty title={sentences.noRules}>{sentences.aRuleWill}</Empty>}
        <ol data-testid="rules">
          {rules.map((r, i) => (
            <Line
              key={r.id}
              r={r}
              up={i > 0 ? () => void move(i, -1) : undefined}
              down={i + 1 < rules.length ? () => void move(i, 1) : undefined}
            />
          ))}
        </ol>
        <h2 className="mt-8 mb-1 text-[17px]">{sentences.neverAgain}</h2>
        <p className="max-w-xl text-ink-500">{sentences.whoIsPutAway}</p>
        <ul data-testid="never">
          {away.map((r) => (
            <Away key={r.id} r={r} />
          ))}
        </ul>
        <Sieve />
      </div>
    </div>
  )
}

/** Somebody who was put away for good, and the way back. */
function Away({ r }: { r: RuleView }) {
  const desk = useDesk()
  return (
    <li className="flex items-baseline gap-3 border-b border-sand-200 py-1.5" data-away={r.id}>
      <Link to={'/rules/' + r.id} className="min-w-0 flex-1 truncate hover:underline">
        <b>{r.called}</b> <span className="text-ink-500">{r.words.replace(/^from |^list |: bin$/g, '')}</span>
      </Link>
      <span className="text-[12.5px] whitespace-nowrap text-ink-500">{sentences.binnedSince(digits(r.did))}</span>
      <TextButton small onClick={() => void desk.act(`/rules/${r.id}/drop`).then(() => refresh(['rules']))}>
        {sentences.letComeAgain}
      </TextButton>
    </li>
  )
}

function Line({ r, up, down }: { r: RuleView; up?: () => void; down?: () => void }) {
  const did = [
    r.did > 0 && sentences.didTimes(digits(r.did)),
    r.would > 0 && sentences.wouldTimes(digits(r.would)),
  ].filter(Boolean)
  return (
    <li className="flex items-center gap-2 border-b border-sand-200 py-2" data-rule={r.id}>
      <Link to={'/rules/' + r.id} className="min-w-0 flex-1 hover:underline" title={sentences.editRule(r.called)}>
        <span className={'block truncate font-semibold' + (r.mode === 'off' ? ' text-ink-500' : '')}>{r.called}</span>
        <span className="block truncate text-[12.5px] text-ink-500">
          {r.doubt ? (
            <span className="text-coral-600">{r.doubt}</span>
          ) : r.name ? (
            r.words
          ) : (
            did.join(', ') || sentences.nothingDone
          )}
        </span>
      </Link>
      {r.name && did.length > 0 && (
        <span className="text-[12.5px] whitespace-nowrap text-ink-500 max-[700px]:hidden">{did.join(', ')}</span>
      )}
      <Chip tone={r.mode === 'on' ? 'tide' : 'plain'}>
        {r.mode === 'on' ? sentences.on : r.mode === 'off' ? sentences.off : sentences.tryingUntil(short(r.until ?? 0))}
      </Chip>
      <IconButton label={sentences.moveUp(r.called)} disabled={!up} onClick={up}>
        <ArrowUpIcon size={14} aria-hidden />
      </IconButton>
      <IconButton label={sentences.moveDown(r.called)} disabled={!down} onClick={down}>
        <ArrowDownIcon size={14} aria-hidden />
      </IconButton>
    </li>
  )
}
