import { useState } from 'react'
import { useNavigate } from 'react-router'
import { BellIcon } from '@phosphor-icons/react'
import { useCards } from '../api/queries'
import { due, now } from '../api/times'
import type { FollowUpView } from '../api/gen/desk'
import { Button, Chip } from '../kit/kit'
import { PhraseField, type Chosen } from '../kit/phrase'
import { useDesk } from './desk'

/** The reminders that wait for an answer, in every open tab. */
export function Cards() {
  const { data: cards } = useCards()
  if (!cards?.length) return null
  return (
    <section aria-label="Reminders" className="absolute top-3 right-3 z-20 flex max-h-[90%] w-80 max-w-[calc(100%-24px)] flex-col gap-2 overflow-y-auto min-[1061px]:top-2 min-[1061px]:right-2 min-[1061px]:w-[216px]">
      {cards.slice(0, 4).map((c) => <Card key={c.uid} card={c} />)}
      {cards.length > 4 && <p className="rounded-[10px] border border-sand-300 bg-sand-0 px-3.5 py-2 text-ink-500">and {cards.length - 4} more reminders, in Follow-ups</p>}
    </section>
  )
}

function Card({ card }: { card: FollowUpView }) {
  const { step } = useDesk()
  const navigate = useNavigate()
  const [again, setAgain] = useState(false)
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const late = card.due.at > 0 && card.due.at < now()
  return (
    <article role="alert" data-testid="card" className="ebb rounded-[10px] border border-sand-300 bg-sand-0 px-3.5 py-3 shadow-[0_4px_14px_#13272c1f]">
      <p className="flex items-start gap-2 font-semibold"><BellIcon size={17} className="mt-px shrink-0 text-amber-600" aria-hidden /><span className="min-w-0">{card.title}</span></p>
      <p className="mt-1 mb-2.5 flex flex-wrap gap-1.5 text-[12px] text-ink-500">
        {card.due.at > 0 && <Chip tone={late ? 'late' : 'due'}>{late ? 'late, was due ' : 'due '}{due(card.due)}</Chip>}
        {card.from && <span className="truncate">{card.from}</span>}
      </p>
      {again ? (
        <form className="flex items-end gap-2" onSubmit={(e) => { e.preventDefault(); if (chosen) void step(card.uid, { kind: 'seen', remind: chosen.moment }) }}>
          <PhraseField id={'again-' + card.uid} label="Remind again when?" autoFocus placeholder="in 1 h" onChosen={setChosen} onAccept={(c) => void step(card.uid, { kind: 'seen', remind: c.moment })} onCancel={() => setAgain(false)} />
        </form>
      ) : (
        <div className="flex flex-wrap gap-1.5">
          <Button className="px-2.5! py-1! text-[12px]" onClick={() => void step(card.uid, { kind: 'finish' })}>Finish</Button>
          {card.conversation > 0 && <Button quiet className="px-2.5! py-1! text-[12px]" onClick={() => { void step(card.uid, { kind: 'seen' }); navigate('/c/' + card.conversation) }}>Open</Button>}
          <Button quiet className="px-2.5! py-1! text-[12px]" onClick={() => setAgain(true)}>Remind again</Button>
          <Button quiet className="px-2.5! py-1! text-[12px]" onClick={() => void step(card.uid, { kind: 'seen' })}>Put away</Button>
        </div>
      )}
    </article>
  )
}
