import { useState } from 'react'
import { about, between, comingName } from '../../api/coming'
import { standingWords, whyHeld } from '../../api/delivery'
import type { DeliveryView, PlanPreview } from '../../api/desk'
import type { Coming, Expected, Record, Waits } from '../../api/gen/delivery'
import { useDeliveryState } from '../../api/queries'
import { long, plural } from '../../api/times'
import { useGate } from '../../frame/gate'
import { HoldFields } from '../../frame/gatetrays'
import { Button, TextButton } from '../../kit/button'
import { sentences } from './sentences'

/** How it stands, and what comes. */
export function Now({ data }: { data: DeliveryView }) {
  const { open, hand } = useGate()
  const { people, held } = data.state
  const shut = people.state !== 'open'
  const next = data.coming.find((c) => c.streams.includes('people'))
  const since = data.last.at
    ? data.last.round
      ? sentences.heldSinceTheRound(long(data.last.at).replace('today ', ''))
      : sentences.heldSince(long(data.last.at))
    : ''
  const about = ({ mean, low, high }: Expected) =>
    high < 1
      ? sentences.hardlyAnyMail
      : low === high
        ? sentences.about(plural(Math.round(mean), sentences.message))
        : sentences.aboutBetween(plural(Math.round(mean), sentences.message), low, high)
  const brings =
    next && next.expected.weeks >= 2
      ? sentences.theNextBrings(next.round ? sentences.round : sentences.deliveryShort, about(next.expected))
      : next
        ? sentences.thereIsTooLittle
        : ''
  return (
    <>
      <h2 className="mb-1.5 text-[15px]">
        {!shut ? standingWords(people) : held < 0 ? sentences.heldNowOutOf : sentences.heldNow(held)}
      </h2>
      {shut ? (
        <>
          <p className="mb-2.5 text-ink-500">
            {whyHeld(people)}. {since && since + '. '}
            {brings}
          </p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => open('look')}>{sentences.lookForOneThing}</Button>
            {people.hand ? (
              <Button quiet onClick={() => void hand('')}>
                {sentences.endTheHold}
              </Button>
            ) : (
              <Button quiet onClick={() => open('all')}>
                {sentences.letAllIn}
              </Button>
            )}
          </div>
        </>
      ) : (
        <div className="mb-2.5 flex flex-wrap gap-2">
          {people.hand ? (
            <Button quiet onClick={() => void hand('')}>
              {sentences.letThePlanDecide}
            </Button>
          ) : (
            <Button quiet onClick={() => void hand('hold')}>
              {sentences.holdNow}
            </Button>
          )}
        </div>
      )}
      <h2 className="mt-5 mb-1.5 text-[15px]">{sentences.whatIsComing}</h2>
      <Comings coming={data.coming} weeks={data.weeks} record={data.record} />
      <h2 className="mt-5 mb-1.5 text-[15px]">{sentences.byHand}</h2>
      <HoldFields hold={(until, answer, away) => void hand('hold', until, answer, away)} />
    </>
  )
}

function Comings({ coming, weeks, record }: { coming: Coming[]; weeks: number; record: Record }) {
  const [all, setAll] = useState(false)
  const own = useDeliveryState()?.own ?? []
  const shown = all ? coming : coming.slice(0, 8)
  if (!coming.length) return <p className="text-ink-500">{sentences.noDeliveryInThe}</p>
  return (
    <>
      <ul data-testid="coming">
        {shown.map((c) => (
          <li
            key={c.at}
            title={between(c.expected)}
            className="flex justify-between gap-3 border-t border-sand-200 py-1.5 text-[12.5px]"
          >
            <span>
              {comingName(c)}
              {c.streams.length === 1 && c.streams[0] !== 'people' && (
                <span className="text-ink-500">
                  {sentences.ofStream(own.find((o) => o.id === c.streams[0])?.name ?? sentences.newslettersOnly)}
                </span>
              )}
            </span>
            <b className="whitespace-nowrap">{about(c.expected)}</b>
          </li>
        ))}
      </ul>
      {coming.length > shown.length && (
        <TextButton className="mt-1" onClick={() => setAll(true)}>
          {sentences.theWholeWeek}
        </TextButton>
      )}
      {record.of >= 20 && (
        <p className="mt-2 text-[12.5px] text-ink-500" data-testid="record">
          {sentences.ofPastDeliveries(record.of, record.held)}
        </p>
      )}
      {weeks < 2 && <p className="mt-2 text-[12.5px] text-ink-500">{sentences.ebbeNeedsTwoWeeks}</p>}
    </>
  )
}

const spanWords = (ms: number) => {
  const m = Math.round(ms / 60_000)
  return m < 1
    ? sentences.noTime
    : m < 90
      ? sentences.min(m)
      : m < 48 * 60
        ? `${Math.round(m / 30) / 2} h`
        : sentences.daysNamed(Math.round(m / 1440))
}
const waitWords = (w: Waits) =>
  w.messages === 0
    ? sentences.noneCameInThe
    : w.never === w.messages
      ? sentences.noneOfTheWould(w.messages)
      : [
          sentences.halfOfTheOf(w.messages, spanWords(w.median)),
          sentences.nineOfTen(spanWords(w.ninety)),
          w.never && sentences.wouldNotHaveCome(w.never),
        ]
          .filter(Boolean)
          .join(' ')

/** The coming week under a plan that is not in force. */
export function Foreseen({ preview, stream }: { preview: PlanPreview; stream: string }) {
  const own = useDeliveryState()?.own ?? []
  return (
    <>
      <h2 className="mb-1.5 text-[15px]">{sentences.nextWeekUnderThis}</h2>
      <p className="mb-2.5 text-ink-500" data-testid="waits">
        <b className="text-ink-900">
          {stream === 'people'
            ? sentences.mailFromPeople
            : (own.find((o) => o.id === stream)?.name ?? sentences.newslettersAndNotices)}
          .
        </b>{' '}
        {waitWords(preview.waits[stream])}
      </p>
      <Comings coming={preview.coming} weeks={preview.weeks} record={preview.record} />
      <p className="mt-3 text-[12.5px] text-ink-500">{sentences.nothingIsUsedBefore}</p>
    </>
  )
}
