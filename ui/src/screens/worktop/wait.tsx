import { useState } from 'react'
import type { NewFollowUp, Slip } from '../../api/desk'
import type { Address } from '../../api/gen/mail'
import { called } from '../../api/names'
import { useConversation } from '../../api/queries'
import { date, now } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { useKeptValue } from '../../kit/keptvalue'
import { PeopleField } from '../../kit/people'
import { type Chosen, PhraseField } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

/** Waiting for somebody's answer: since now, until it comes; asked again on a day. */
export function WaitTray({
  slip,
  onWait,
  onClose,
}: {
  slip: Slip
  onWait: (f: NewFollowUp) => void
  onClose: () => void
}) {
  const { data } = useConversation(slip.id)
  const between = data?.between
  const [name, setName] = useState<string>()
  const [ask, setAsk] = useState<Chosen | null>(null)
  const [since, setSince] = useState<Chosen | null>(null)
  const [others, setOthers] = useKeptValue<{ also: Address[]; every: boolean } | null>('wait-others', null)
  const newest = data?.messages.at(-1)
  const begun = since?.moment.at ?? (newest?.own ? newest.date : now()) // what was sent is waited for since then
  const shown = name ?? between?.name ?? slip.from
  const same = !name || name === between?.name || name === slip.from
  const wait = (to: Chosen | null) =>
    onWait({
      title: sentences.waitFor(called(shown), slip.title || slip.subject),
      due: { at: 0 },
      priority: 5,
      keep: false,
      with:
        same && between
          ? { name: between.name, address: between.address }
          : { name: shown, address: shown.includes('@') ? shown : '' },
      waits: {
        since: begun,
        ask: to?.moment ?? { at: 0 },
        rhythm: to?.rhythm,
        only: true,
        also: others?.also,
        all: !!others?.every && others.also.length > 0,
      },
    })
  return (
    <Tray
      label={sentences.wait}
      testid="wait-tray"
      layout="row"
      onClose={onClose}
      onSubmit={() => {
        wait(ask)
      }}
    >
      <div className="min-w-52 flex-1">
        <Field
          id="wait-for"
          label={sentences.waitingForTheirAnswer}
          value={shown}
          onChange={(e) => setName(e.target.value)}
          autoComplete="off"
        />
        {others ? (
          <div className="mt-2 grid gap-2">
            <PeopleField
              id="wait-also"
              label={sentences.andFor}
              people={others.also}
              autoFocus={!others.also.length}
              onChange={(also) => setOthers({ ...others, also })}
            />
            <RadioGroup
              label={sentences.andFor}
              value={others.every ? 'all' : 'any'}
              options={[
                { id: 'any', name: sentences.anyOfThem },
                { id: 'all', name: sentences.allOfThem },
              ]}
              onChange={(v) => setOthers({ ...others, every: v === 'all' })}
            />
          </div>
        ) : (
          <TextButton small className="mt-1" onClick={() => setOthers({ also: [], every: false })}>
            {sentences.forSeveralPeople}
          </TextButton>
        )}
      </div>
      <div className="min-w-52 flex-1">
        <PhraseField
          id="wait-ask"
          label={sentences.askAgainWhenOptional}
          placeholder={sentences.in3Days}
          rhythm
          autoFocus
          optional
          onChosen={setAsk}
          onAccept={wait}
          onCancel={onClose}
        />
      </div>
      <div className="min-w-44 flex-1">
        <PhraseField
          id="wait-since"
          label={newest?.own ? sentences.sinceItWasSent(date(newest.date)) : sentences.sinceNow}
          way="back"
          optional
          onChosen={setSince}
          onAccept={() => wait(ask)}
          onCancel={onClose}
        />
      </div>
      <Button type="submit" className="mt-[21px]">
        {sentences.wait}
      </Button>
    </Tray>
  )
}
