import { useState } from 'react'
import type { NewFollowUp, Slip } from '../../api/desk'
import type { Moment } from '../../api/gen/when'
import { useConversation } from '../../api/queries'
import { now } from '../../api/times'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { type Chosen, PhraseField } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences'

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
  const shown = name ?? between?.name ?? slip.from
  const same = !name || name === between?.name || name === slip.from
  const wait = (at?: Moment) =>
    onWait({
      title: sentences.waitFor(shown.split(' ')[0], slip.title || slip.subject),
      due: { at: 0 },
      priority: 5,
      keep: false,
      with:
        same && between
          ? { name: between.name, address: between.address }
          : { name: shown, address: shown.includes('@') ? shown : '' },
      waits: { since: now(), ask: at ?? { at: 0 }, only: true },
    })
  return (
    <Tray
      label={sentences.wait}
      testid="wait-tray"
      layout="row"
      onClose={onClose}
      onSubmit={() => {
        wait(ask?.moment)
      }}
    >
      <Field
        id="wait-for"
        className="min-w-52 flex-1"
        label={sentences.waitingForTheirAnswer}
        value={shown}
        onChange={(e) => setName(e.target.value)}
        autoComplete="off"
      />
      <div className="min-w-52 flex-1">
        <PhraseField
          id="wait-ask"
          label={sentences.askAgainWhenOptional}
          placeholder={sentences.in3Days}
          autoFocus
          optional
          onChosen={setAsk}
          onAccept={(c) => wait(c.moment)}
          onCancel={onClose}
        />
      </div>
      <Button type="submit" className="mt-[21px]">
        {sentences.wait}
      </Button>
    </Tray>
  )
}
