import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { team } from '../../api/base'
import { get, told } from '../../api/client'
import type { SharedView, SharingView, Slip, Wish } from '../../api/desk'
import { date, long, plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, LinkButton, TextButton } from '../../kit/button'
import { ChoiceList, RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

/** With which team a conversation is shared, and from where on. */
export function ShareTray({ slip, onShare, onClose }: { slip: Slip; onShare: (w: Wish) => void; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ['sharing', slip.id],
    queryFn: () => get<SharingView>(`/conversations/${slip.id}/sharing`),
    staleTime: 0,
  })
  const teams = data?.teams ?? []
  const options = teams.map((t) => ({
    id: t.box,
    name: t.name,
    note: t.shared ? sentences.seesItAlready : sentences.seenBy(t.people),
    disabled: t.shared,
  }))
  const [chosen, setChosen] = useState<number>()
  const [whole, setWhole] = useState(true)
  const [why, setWhy] = useState('')
  const to = chosen ?? options.find((o) => !o.disabled)?.id
  const past = whole || (data?.messages ?? 0) < 2
  if (data && !teams.length)
    return (
      <Tray label={sentences.shareIt} testid="share-tray" layout="middle" onClose={onClose} onSubmit={onClose}>
        <p className="flex-1">{sentences.inNoTeam}</p>
        <LinkButton href="/setup/teams">{sentences.toTeams}</LinkButton>
        <Button quiet autoFocus onClick={onClose}>
          {sentences.stay}
        </Button>
      </Tray>
    )
  return (
    <Tray
      label={sentences.shareIt}
      testid="share-tray"
      layout="row"
      onClose={onClose}
      onSubmit={() => {
        if (to !== undefined) onShare({ team: to, whole: past, why })
      }}
    >
      {error && <p>{told(error)}</p>}
      <div className="min-w-44 flex-1">
        {to !== undefined && (
          <ChoiceList label={sentences.shareWith} value={to} options={options} onChange={setChosen} />
        )}
        {data && to === undefined && <p>{sentences.allSeeIt}</p>}
      </div>
      <div className="min-w-60 flex-1">
        {(data?.messages ?? 0) > 1 && (
          <RadioGroup
            label={sentences.howMuch}
            value={whole ? 'whole' : 'newest'}
            options={[
              { id: 'whole', name: sentences.allOfIt(plural(data!.messages, sentences.message)) },
              { id: 'newest', name: sentences.fromTheNewest },
            ]}
            onChange={(v) => setWhole(v === 'whole')}
          />
        )}
        <p className="mt-1.5 text-[12px] text-ink-500" data-testid="share-warning">
          {!past && data?.quotes ? sentences.quotesEarlier : sentences.whatIsShared}
          {!!data?.unfetched && ' ' + sentences.unfetched(plural(data.unfetched, sentences.message))}
        </p>
      </div>
      {/* It has the focus from the beginning: what is typed while the teams are on their way decides nothing. */}
      <Field
        id="share-why"
        label={sentences.whyGiven}
        className="min-w-52 flex-1"
        autoComplete="off"
        autoFocus
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
      <Button type="submit" className="mt-[21px]" disabled={to === undefined}>
        {sentences.share}
      </Button>
      <Button quiet className="mt-[21px]" onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}

/** Above the messages: with whom they are shared, who of them has it, and since when. */
export const SharedLines = ({ shared }: { shared: SharedView[] }) =>
  shared.map((s) => (
    <div
      key={s.id}
      data-testid="shared"
      className="mb-3 rounded-[10px] border border-plum-600/30 bg-plum-100 px-3 py-2 text-[13px] break-words"
    >
      <p>
        <b>{title(s)}</b> <span className="text-ink-500">{since(s)}</span>
      </p>
      {team > 0 && s.why && <p className="mt-0.5">“{s.why}”</p>}
      {!team && !s.ended && (
        <p className="mt-0.5 text-ink-500">
          {s.mine ? sentences.youHaveItThere : s.owner ? sentences.hasItThere(s.owner) : sentences.nobodyHasItThere}
          {s.waits > 0 && ' ' + sentences.onItsWayThere(plural(s.waits, sentences.message))}
        </p>
      )}
      <p className="no-print mt-0.5 flex items-baseline gap-3.5 text-[12px]">
        {!team && s.conversation > 0 && (
          <a href={`/in/${s.box}/c/${s.conversation}`} className="font-semibold text-accent hover:underline">
            {sentences.seeItThere}
          </a>
        )}
        {s.ends && <Ending id={s.id} />}
      </p>
    </div>
  ))

function Ending({ id }: { id: number }) {
  const { act } = useDesk()
  return (
    <TextButton small onClick={() => void act(`/sharings/${id}/end`)}>
      {sentences.endSharing}
    </TextButton>
  )
}

function title(s: SharedView): string {
  if (s.addressed) return sentences.alsoCameTo(s.team)
  if (team) return sentences.sharedItHere(s.by || sentences.somebodyWhoLeft)
  return s.ended ? sentences.wasSharedWith(s.team) : sentences.sharedWith(s.team)
}

function since(s: SharedView): string {
  if (s.ended) return sentences.sharedUntil(long(s.ended))
  return s.from ? sentences.sharedFrom(date(s.from), long(s.since)) : long(s.since)
}
