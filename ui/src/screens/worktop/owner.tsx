import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get, told } from '../../api/client'
import type { MemberView, Slip, TeamView } from '../../api/desk'
import type { Turn } from '../../api/gen/together'
import { useMe } from '../../api/session'
import { date, long } from '../../api/times'
import { useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { ChoiceList } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

interface Props {
  slip?: Slip // none: several are given at once
  onGive: (to: number, why: string, turn?: Turn) => void
  onClose: () => void
}

const TURN = -1
const LEAST = -2

/** Whoever is away, and until when if that is known. */
const away = (m: MemberView) => (!m.away ? '' : m.until ? sentences.awayUntil(date(m.until.at)) : sentences.isAway)

/** To whom of the team, and why; what somebody has can be given back to nobody. */
export function GiveTray({ slip, onGive, onClose }: Props) {
  const { data, error } = useQuery({ queryKey: ['team'], queryFn: () => get<TeamView>('/team') })
  const has = slip?.owner?.id ?? 0
  const options = [
    ...(data?.members ?? [])
      .filter((m) => m.id !== has)
      .map((m) => ({ id: m.id, name: m.name, note: m.here ? sentences.takeItYourself : away(m) })),
    ...(data?.next && data.members.length > 1
      ? [
          { id: TURN, name: sentences.nextInTurn, note: data.next },
          { id: LEAST, name: sentences.leastToDo, note: data.least },
        ]
      : []),
    ...(has ? [{ id: 0, name: sentences.nobody, note: sentences.givenBack }] : []),
  ]
  const first = options.find((o) => !o.note)?.id ?? options[0]?.id
  const [chosen, setChosen] = useState<number>()
  const [why, setWhy] = useState('')
  const to = chosen ?? first
  return (
    <Tray
      label={sentences.giveIt}
      testid="give-tray"
      layout="middle"
      onClose={onClose}
      onSubmit={() => {
        if (to === TURN || to === LEAST) onGive(0, why, to === TURN ? 'turn' : 'least')
        else if (to !== undefined) onGive(to, why)
      }}
    >
      {error && <p>{told(error)}</p>}
      <div className="min-w-56 flex-1">
        {to !== undefined && <ChoiceList label={sentences.giveIt} value={to} options={options} onChange={setChosen} />}
      </div>
      {/* It has the focus from the beginning: what is typed while the members are on their way decides nothing. */}
      <Field
        id="give-why"
        label={sentences.whyGiven}
        className="min-w-56 flex-1"
        autoComplete="off"
        autoFocus
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
      <Button type="submit" disabled={to === undefined}>
        {sentences.give}
      </Button>
      <Button quiet onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}

/** Beside a conversation of a team: who has it, since when, and why. */
export function Owner({ slip }: { slip: Slip }) {
  const { decide } = useDesk()
  const key = useKey('take')
  const o = slip.owner
  const take = (owner: number) => void decide({ kind: 'give', conversations: [slip.id], owner, was: o?.id ?? 0 }, false)
  const me = useMe().id
  return (
    <section className="mb-4 border-b border-sand-200 pb-3" data-testid="owner">
      <h2 className="text-[15px] tracking-[-.01em]">{sentences.owner}</h2>
      <p className="mt-1">
        <b className={o ? 'text-plum-600' : ''}>{o?.name ?? sentences.nobodyYet}</b>
        {o && (
          <span className="block text-ink-500">
            {sentences.hasItSince(long(o.at))}
            {o.by && `, ${sentences.givenBy(o.by)}`}
          </span>
        )}
      </p>
      {o?.why && <p className="mt-1">“{o.why}”</p>}
      <TextButton className="mt-1.5" data-tip={key} onClick={() => take(o?.mine ? 0 : me)}>
        {o?.mine ? sentences.giveItBack : sentences.takeIt}
      </TextButton>
    </section>
  )
}
