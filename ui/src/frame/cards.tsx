import { cx } from '../kit/cx'
import { Pill } from '../kit/pieces'
import { useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { BellIcon, CalendarDotsIcon, MoonIcon } from '@phosphor-icons/react'
import { post } from '../api/client'
import { refresh, useCards } from '../api/queries'
import { due, long, now, plural, span } from '../api/times'
import type { FollowUpView } from '../api/desk'
import type { Event as CalendarEvent } from '../api/gen/calendar'
import { Button } from '../kit/button'
import { Chip } from '../kit/kit'
import { PhraseField, type Chosen } from '../kit/phrase'
import { useDesk } from './desk'

const box = 'ebb rounded-[10px] border border-sand-300 bg-sand-0 px-3.5 py-3 shadow-[0_4px_14px_#13272c1f]'
const small = 'px-2.5! py-1! text-[12px]'

/** What has come up by itself and waits for an answer, in every open tab. */
export function Cards() {
  const { data } = useCards()
  const { act } = useDesk()
  const navigate = useNavigate()
  const at = useLocation().pathname
  const [open, setOpen] = useState(false)
  const close = data?.close && at !== '/close-day' ? data.close : 0
  if (!data || (!data.cards.length && !data.events.length && !data.sum && !close)) return null
  const count = data.events.length + (data.sum ? 1 : data.count)
  const aside = at !== '/' && !at.startsWith('/c/') // where their column is taken, they stand behind one line
  if (aside && count > 1 && !open && !close) {
    return (
      <Pill
        look="lying"
        data-testid="cards-folded"
        onClick={() => setOpen(true)}
        className="absolute top-2 right-3 z-20 flex items-center gap-2"
      >
        <BellIcon size={15} className="text-amber-600" aria-hidden />
        {plural(count, 'reminder')}
      </Pill>
    )
  }
  return (
    <section
      aria-label="Reminders"
      className={cx(
        'absolute top-3 right-3 z-20 flex max-h-[90%] w-80 max-w-[calc(100%-24px)] flex-col gap-2',
        'overflow-y-auto min-[1061px]:top-2 min-[1061px]:right-2 min-[1061px]:w-[216px]',
      )}
    >
      {aside && open && count > 1 && (
        <Button size="small" ground="line" className="self-end" onClick={() => setOpen(false)}>
          Fold
        </Button>
      )}
      {close > 0 && (
        <article role="alert" data-testid="close-card" className={box}>
          <p className="mb-2 flex items-start gap-2 font-semibold">
            <MoonIcon size={17} className="mt-px shrink-0 text-accent" aria-hidden />
            {plural(close, 'follow-up')} left for today
          </p>
          <div className="flex flex-wrap gap-1.5">
            <Button className={small} onClick={() => navigate('/close-day')}>
              Close the day
            </Button>
            <Button
              quiet
              className={small}
              onClick={() => void post('/follow-ups/closed').then(() => refresh(['cards']))}
            >
              Not today
            </Button>
          </div>
        </article>
      )}
      {data.sum && (
        <article role="alert" data-testid="cards-sum" className={box}>
          <p className="mb-2 flex items-start gap-2 font-semibold">
            <BellIcon size={17} className="mt-px shrink-0 text-amber-600" aria-hidden />
            <span className="min-w-0 break-words">{data.sum}</span>
          </p>
          <div className="flex flex-wrap gap-1.5">
            <Button className={small} onClick={() => navigate('/one-by-one')}>
              One by one
            </Button>
            <Button quiet className={small} onClick={() => void act('/cards/put-away')}>
              Put all away
            </Button>
          </div>
        </article>
      )}
      {data.events.map((e) => (
        <EventCard key={e.uid} e={e} />
      ))}
      {data.cards.slice(0, 4).map((c) => (
        <Card key={c.uid} card={c} />
      ))}
      {data.cards.length > 4 && (
        <p className="rounded-[10px] border border-sand-300 bg-sand-0 px-3.5 py-2 text-ink-500">
          and {data.cards.length - 4} more reminders, in Follow-ups
        </p>
      )}
    </section>
  )
}

function EventCard({ e }: { e: CalendarEvent }) {
  const { act } = useDesk()
  const navigate = useNavigate()
  const away = () => void act('/calendar/steps', { uid: e.uid, kind: 'seen' })
  return (
    <article role="alert" data-testid="event-card" className={box}>
      <p className="flex items-start gap-2 font-semibold">
        <CalendarDotsIcon size={17} className="mt-px shrink-0 text-accent" aria-hidden />
        <span className="min-w-0">{e.title}</span>
      </p>
      <p className="mt-1 mb-2.5 text-[12px] text-ink-500">
        {long(e.start.at)}
        {e.place && `, ${e.place}`}
        {e.start.at > now() && `, in ${span(e.start.at - now())}`}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <Button className={small} onClick={away}>
          Put away
        </Button>
        {e.conversation > 0 && (
          <Button
            quiet
            className={small}
            onClick={() => {
              away()
              navigate('/c/' + e.conversation)
            }}
          >
            Open
          </Button>
        )}
      </div>
    </article>
  )
}

function Card({ card }: { card: FollowUpView }) {
  const { step } = useDesk()
  const navigate = useNavigate()
  const [again, setAgain] = useState(false)
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const late = card.due.at > 0 && card.due.at < now()
  const remind = (c: Chosen) => void step(card.uid, { kind: 'seen', remind: c.moment })
  const answered = (card.waits.ended ?? 0) > 0 && now() - card.waits.ended! < 86_400_000
  return (
    <article role="alert" data-testid="card" className={box}>
      <p className="flex items-start gap-2 font-semibold">
        <BellIcon size={17} className="mt-px shrink-0 text-amber-600" aria-hidden />
        <span className="min-w-0 break-words">{card.title}</span>
      </p>
      <p className="mt-1 mb-2.5 flex flex-wrap gap-1.5 text-[12px] text-ink-500">
        {(card.waits.since ?? 0) > 0 && (
          <Chip tone="with">time to ask {card.with.name || card.with.address} again</Chip>
        )}
        {answered && <Chip tone="tide">{card.with.name || card.with.address} has written</Chip>}
        {card.due.at > 0 && (
          <Chip tone={late ? 'late' : 'due'}>
            {late ? 'late, was due ' : 'due '}
            {due(card.due)}
          </Chip>
        )}
        {card.from && <span className="truncate">{card.from}</span>}
      </p>
      {again ? (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            if (chosen) remind(chosen)
          }}
        >
          <PhraseField
            id={'again-' + card.uid}
            label="Remind again when?"
            autoFocus
            placeholder="in 1 h"
            onChosen={setChosen}
            onAccept={remind}
            onCancel={() => setAgain(false)}
          />
        </form>
      ) : (
        <div className="flex flex-wrap gap-1.5">
          <Button className={small} onClick={() => void step(card.uid, { kind: 'finish' })}>
            Finish
          </Button>
          <Button
            quiet
            className={small}
            onClick={() => {
              void step(card.uid, { kind: 'seen' })
              navigate('/follow-ups/' + encodeURIComponent(card.uid))
            }}
          >
            Open
          </Button>
          <Button quiet className={small} onClick={() => setAgain(true)}>
            Remind again
          </Button>
          <Button quiet className={small} onClick={() => void step(card.uid, { kind: 'seen' })}>
            Put away
          </Button>
        </div>
      )}
    </article>
  )
}
