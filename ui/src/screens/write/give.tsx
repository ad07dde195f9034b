import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { get, newKey, post, told } from '../../api/client'
import type { DraftView, TeamView } from '../../api/desk'
import type { Decided } from '../../api/gen/journal'
import { refresh } from '../../api/queries'
import { useMe } from '../../api/session'
import { long } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Field, Wrong } from '../../kit/field'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { Select } from '../../kit/select'
import { sentences } from './sentences.writer'

/** Has another of the team go on with a draft; what went wrong is thrown. */
function useHand(draft: DraftView) {
  const { say } = useDesk()
  const key = useRef(newKey())
  return async (to: number, why: string) => {
    const done = await post<Decided>(`/drafts/${draft.id}/hand`, { to, why }, key.current)
    key.current = newKey()
    say({ text: done.text })
    refresh(['outbox', 'mail'], [], draft.conversation ? [draft.conversation] : [])
  }
}

/** To whom of the team a draft is given, and what they are asked to do. */
export function GiveRow({
  draft,
  keep,
  onGiven,
  onClose,
}: {
  draft: DraftView
  keep: () => Promise<boolean>
  onGiven: () => void
  onClose: () => void
}) {
  const { data } = useQuery({ queryKey: ['team'], queryFn: () => get<TeamView>('/team') })
  const hand = useHand(draft)
  const me = useMe().id
  const [chosen, setChosen] = useState('')
  const [why, setWhy] = useState('')
  const [wrong, setWrong] = useState('')
  if (!data) return <Loading what={sentences.lookingUpTheTeam} />
  const others = data.members.filter((m) => m.id !== me)
  const from = draft.trail.at(-1)?.byId
  const first = others.find((m) => m.id === from) ?? others.find((m) => !m.away) ?? others[0]
  if (!first) return <Notice>{sentences.nobodyElseInTheTeam}</Notice>
  const to = chosen || String(first.id)
  const give = async () => {
    setWrong('')
    if (!(await keep())) return
    try {
      await hand(Number(to), why)
      onGiven()
    } catch (e) {
      setWrong(told(e))
    }
  }
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- Enter and Escape of any field in it
    <div
      className="flex flex-wrap items-end gap-2.5 border-t border-sand-200 pt-2"
      data-testid="give-draft"
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.preventDefault()
          e.stopPropagation()
          onClose()
        }
        if (e.key === 'Enter' && e.target instanceof HTMLInputElement) {
          e.preventDefault()
          void give()
        }
      }}
    >
      <Select
        id="give-draft-to"
        label={sentences.giveItTo}
        value={to}
        options={others.map((m) => ({ id: String(m.id), name: m.away ? sentences.whoIsAway(m.name) : m.name }))}
        onChange={setChosen}
      />
      <Field
        id="give-draft-why"
        label={sentences.whatTheyAreAsked}
        placeholder={sentences.pleaseApprove}
        className="min-w-52 flex-1"
        autoFocus
        autoComplete="off"
        maxLength={400}
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
      <Button onClick={() => void give()}>{sentences.giveTheDraft}</Button>
      <Button quiet onClick={onClose}>
        {sentences.cancel}
      </Button>
      <Wrong>{wrong}</Wrong>
    </div>
  )
}

/** Who gave one the draft, and what one is asked to do with it. */
export function GivenBy({ draft }: { draft: DraftView }) {
  const last = draft.trail.at(-1)
  if (!last || draft.with) return null
  return (
    <p className="rounded-[9px] bg-plum-100 px-3 py-1.5 text-[12.5px]" data-testid="given-draft">
      <b>{sentences.gaveYouThis(last.by.split(' ')[0] || sentences.somebodyWhoLeft)}</b>, {long(last.at)}
      {last.why && <>: “{last.why}”</>}
    </p>
  )
}

/** A draft that is with another of the team: to be read, and to be taken back. */
export function GivenAway({ draft, onBack }: { draft: DraftView; onBack: () => void }) {
  const hand = useHand(draft)
  const me = useMe().id
  const [wrong, setWrong] = useState('')
  const last = draft.trail.at(-1)
  return (
    <div data-testid="given-away" className="grid gap-3">
      <p>
        <b>{sentences.isWith(draft.with!)}</b>
        {last && sentences.sinceThen(long(last.at))}
        {last?.why && <>: “{last.why}”</>}
      </p>
      <p className="text-ink-500">{draft.subject || sentences.withoutASubject}</p>
      <p className="font-serif text-[16px] whitespace-pre-wrap">{draft.text}</p>
      <Wrong>{wrong}</Wrong>
      <TextButton
        className="self-start"
        onClick={() =>
          void hand(me, '').then(onBack, (e: unknown) => {
            setWrong(told(e))
          })
        }
      >
        {sentences.takeTheDraftBack}
      </TextButton>
    </div>
  )
}
