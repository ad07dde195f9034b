import { useState } from 'react'
import { team, within } from '../api/base'
import { newKey, post, told } from '../api/client'
import { standingWords } from '../api/delivery'
import type { HeldFound, HeldSlip } from '../api/desk'
import type { Decided } from '../api/gen/journal'
import type { Moment } from '../api/gen/when'
import { refresh, useBoxes, useDelivery, useDeliveryState } from '../api/queries'
import { long, plural, short } from '../api/times'
import { Button, TextButton } from '../kit/button'
import { Checkbox } from '../kit/checkbox'
import { Field } from '../kit/field'
import { Chip, Key } from '../kit/kit'
import { type Chosen, PhraseField, understand } from '../kit/phrase'
import { AboveDock, Tray } from '../kit/tray'
import { useCommands, useKey } from './commands'
import { fromAddress } from './address'
import { useDesk } from './desk'
import { type GateOpen, useGate } from './gate'
import { Keeps, useKept } from './kept'
import { sentences } from './sentences'
import { sentences as later } from './sentences.later'

/** The tray of the gate that is open, above whatever dock there is. */
export function GateTray({ tray }: { tray: Exclude<GateOpen, ''> }) {
  const { open } = useGate()
  const close = () => open('')
  return (
    <AboveDock>
      {tray === 'hold' ? (
        <HoldTray close={close} />
      ) : tray === 'all' ? (
        <AllTray close={close} />
      ) : (
        <LookTray close={close} />
      )}
    </AboveDock>
  )
}

/** Searching what is held for one sender or word, and letting only that in. */
function LookTray({ close }: { close: () => void }) {
  const { say } = useDesk()
  const { open } = useGate()
  const people = useDeliveryState()?.people
  const [words, setWords] = useState(() => (within(window.location.pathname) === '/find' ? fromAddress('asked') : '')) // it goes on there
  const [found, setFound] = useState<{ words: string; slips: HeldSlip[] } | null>(null)
  const [wrong, setWrong] = useState('')
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set())
  const look = () =>
    post<HeldFound>('/delivery/look', { words })
      .then(({ found: slips }) => {
        setFound({ words, slips })
        setChosen(new Set(slips.length === 1 ? [slips[0].id] : []))
      })
      .catch((e: unknown) => setWrong(told(e)))
  const letIn = (ids: number[]) => {
    close()
    post<Decided>('/delivery/let-in', { conversations: ids, all: false, words: found?.words ?? '' }, newKey())
      .then((d) => {
        say({ text: d.text, undo: d.entry > 0 })
        refresh(['mail', 'delivery'])
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  }
  const asked = found?.words === words
  const toggle = (id: number) =>
    setChosen((c) => {
      const n = new Set(c)
      if (!n.delete(id)) n.add(id)
      return n
    })
  return (
    <Tray
      label={sentences.lookForOneThing}
      testid="look-tray"
      onClose={close}
      onSubmit={() => {
        if (asked && chosen.size) letIn([...chosen])
        else if (words.trim()) void look()
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <Field
          id="look-words"
          className="min-w-64 flex-1"
          label={sentences.lookForOneThingTitle}
          value={words}
          wrong={wrong}
          autoFocus
          onFocus={(e) => e.target.select()} // what is typed replaces it
          autoComplete="off"
          placeholder={sentences.halvard}
          onChange={(e) => {
            setWords(e.target.value)
            setWrong('')
          }}
        />
        <Button type="submit" disabled={asked ? !chosen.size : !words.trim()}>
          {asked && found.slips.length
            ? sentences.letIn(chosen.size === 1 ? sentences.it : chosen.size || '')
            : sentences.look}
        </Button>
        <Button quiet onClick={() => open('all')}>
          {sentences.letAllIn}
        </Button>
      </div>
      <p className="mt-2 text-[12.5px] text-ink-500" aria-live="polite" data-testid="looked">
        {!asked
          ? sentences.onlyWhatYouChoose(people ? standingWords(people) + '. ' : '')
          : found.slips.length
            ? sentences.heldWithThatEnter(plural(found.slips.length, sentences.conversation))
            : sentences.nothingThatIsHeld(found.words)}
      </p>
      {asked && found.slips.length > 0 && (
        <ul className="mt-1 max-h-56 overflow-y-auto" aria-label={sentences.heldTitle}>
          {found.slips.map((s) => (
            <li key={s.id} className="border-t border-sand-200">
              <Checkbox checked={chosen.has(s.id)} onChange={() => toggle(s.id)} wide className="py-1.5">
                <b className="max-w-[32%] shrink-0 truncate">{s.from}</b>
                <span className="min-w-0 flex-1 truncate text-ink-700">{s.subject}</span>
                {s.messages > 1 && <Chip>{plural(s.messages, sentences.message)}</Chip>}
                <span className="shrink-0 text-[12px] text-ink-500">{short(s.at)}</span>
              </Checkbox>
            </li>
          ))}
        </ul>
      )}
    </Tray>
  )
}

/** Letting all in before its time: said plainly, with a key of its own. */
function AllTray({ close }: { close: () => void }) {
  const { say } = useDesk()
  const { open, hand } = useGate()
  const people = useDeliveryState()?.people
  const next = useDelivery().data?.coming[0]
  const all = () => {
    close()
    post<Decided>('/delivery/let-in', { conversations: [], all: true, words: '' }, newKey())
      .then((d) => {
        say({ text: d.text, undo: d.entry > 0 })
        refresh(['mail', 'delivery'])
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  }
  useCommands([{ id: 'let-all-in', name: sentences.letAllInNow, keys: ['F10'], run: all, typing: true }])
  const k = useKey('let-all-in', ['F10'])
  return (
    <Tray label={sentences.letAllInTitle} testid="all-tray" layout="middle" onClose={close}>
      <div className="min-w-64 flex-1">
        <h2 className="text-[15px]">
          {people?.next.at ? sentences.theNextMailComes(long(people.next.at)) : sentences.noDeliveryIsPlanned}
        </h2>
        <p className="text-[12.5px] text-ink-500">
          {sentences.lettingAllInBrings(
            next && next.expected.weeks >= 2 ? sentences.aboutMessages(Math.round(next.expected.mean)) : '',
          )}
        </p>
      </div>
      <Button autoFocus onClick={() => open('look')}>
        {sentences.lookForOneThingInstead}
      </Button>
      <Button quiet aria-keyshortcuts={k} onClick={all}>
        <Key>{k}</Key>
        {sentences.letAllInNow}
      </Button>
      <Button
        quiet
        onClick={() => {
          close()
          void hand('open')
        }}
      >
        {sentences.andLetMailFlow}
      </Button>
      <Button quiet onClick={close}>
        {sentences.leaveItHeld}
      </Button>
    </Tray>
  )
}

/** Holding by hand: until a time, for a span, or until the user ends it; senders may hear why. */
function HoldTray({ close }: { close: () => void }) {
  const { hand } = useGate()
  const kept = useKept()
  return (
    <Tray label={sentences.holdByHand} testid="hold-tray" onClose={close}>
      <Keeps name="hold" what={sentences.aHold}>
        <HoldFields
          autoFocus
          hold={(until, answer, away) => {
            close()
            const back = kept.forget('hold')
            void hand('hold', until, answer, away).then((done) => done || back())
          }}
        />
      </Keeps>
    </Tray>
  )
}

// Spans for which one holds in one press, in the words of the line beside them.
const spans = [
  ['for 30 min', sentences.thirtyMinutes],
  ['for 1 h', sentences.oneHourLong],
  ['for 2 h', sentences.twoHours],
  ['tomorrow', sentences.untilTomorrow],
] as const

export function HoldFields({
  hold,
  autoFocus,
}: {
  hold: (until?: Moment, answer?: string, away?: boolean) => void
  autoFocus?: boolean
}) {
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [answer, setAnswer] = useState('')
  const [says, setSays] = useState(false)
  const [away, setAway] = useState(false)
  const { say } = useDesk()
  const round = useDelivery().data?.coming.find((c) => c.round && c.streams.includes('people'))
  const span = (phrase: string) =>
    void understand(phrase)
      .then((at) => at && hold(at, answer, away))
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  return (
    <div className="flex flex-wrap items-start gap-3">
      <div role="group" aria-label={sentences.holdFor} className="flex basis-full flex-wrap gap-1.5">
        {spans.map(([phrase, name]) => (
          <Button key={phrase} size="small" ground="line" onClick={() => span(phrase)}>
            {name}
          </Button>
        ))}
        {round && (
          <Button size="small" ground="line" onClick={() => hold({ at: round.at }, answer, away)}>
            {sentences.untilTheNextRound(long(round.at).replace('today ', ''))}
          </Button>
        )}
      </div>
      <div className="min-w-56 flex-1">
        <PhraseField
          id="hold-until"
          label={sentences.holdByHandUntil}
          placeholder={sentences.tomorrow8OrFor}
          autoFocus={autoFocus}
          optional
          onChosen={setChosen}
          onAccept={(c) => hold(c.moment, answer, away)}
        />
        {says ? (
          <Field
            id="hold-answer"
            label={sentences.automaticReplyOnceTo}
            value={answer}
            maxLength={1000}
            placeholder={sentences.iReadMailAgain}
            onChange={(e) => setAnswer(e.target.value)}
          />
        ) : (
          <TextButton small onClick={() => setSays(true)}>
            {sentences.tellSendersWhy}
          </TextButton>
        )}
        <AwayBox checked={away} onChange={setAway} />
      </div>
      <div className="flex flex-wrap gap-2 pt-5">
        <Button disabled={!chosen} onClick={() => hold(chosen?.moment, answer, away)}>
          {sentences.hold}
        </Button>
        <Button quiet onClick={() => hold(undefined, answer, away)}>
          {sentences.untilIEndIt}
        </Button>
      </div>
    </div>
  )
}

/** For whoever works in teams: that they pass one over meanwhile. */
export function AwayBox({ checked, onChange }: { checked: boolean; onChange: (away: boolean) => void }) {
  const boxes = useBoxes().data ?? []
  if (team || boxes.length < 2) return null
  return (
    <div className="my-2.5">
      <Checkbox checked={checked} onChange={onChange}>
        {later.iAmAway}
      </Checkbox>
    </div>
  )
}
