import { useState } from 'react'
import type { FollowUpView } from '../../api/desk'
import type { Step } from '../../frame/desk'
import { Keeps, useKept } from '../../frame/kept'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { type Chosen, PhraseField } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { withName } from './parts'
import { sentences } from './sentences'

/** Somebody else has to act now: whom it waits for, and when to ask again. */
export function HandOverTray({
  f,
  onHand,
  onClose,
}: {
  f: FollowUpView
  onHand: (s: Step) => void
  onClose: () => void
}) {
  const [name, setName] = useState(withName(f))
  const kept = useKept()
  const typedIn = 'hand/' + f.uid
  const [ask, setAsk] = useState<Chosen | null>(null)
  const person = () => (name === withName(f) ? f.with : { name, address: name.includes('@') ? name : '' })
  const hand = (c = ask) => {
    kept.forget(typedIn)
    onHand({ kind: 'wait', with: person(), ask: c?.moment, rhythm: c?.rhythm, seen: 'open' })
  }
  return (
    <Keeps name={typedIn} what={sentences.aWaitOf(f.title)}>
      <Tray
        label={sentences.waitForSomebody}
        testid="handover-tray"
        layout="row"
        onClose={onClose}
        onSubmit={() => {
          hand()
        }}
      >
        <Field
          id="hand-to"
          className="min-w-52 flex-1"
          label={sentences.whoActsNextTheir}
          value={name}
          autoFocus={!name}
          autoComplete="off"
          onChange={(e) => setName(e.target.value)}
        />
        <div className="min-w-52 flex-1">
          <PhraseField
            id="hand-ask"
            label={sentences.askAgainWhenOptional}
            placeholder={sentences.in3Days}
            rhythm
            autoFocus={!!name}
            optional
            onChosen={setAsk}
            onAccept={hand}
            onCancel={onClose}
          />
        </div>
        <Button type="submit" className="mt-[21px]">
          {sentences.waitForThem}
        </Button>
        <p className="basis-full text-[12px] text-ink-500">{sentences.itGoesToThe}</p>
      </Tray>
    </Keeps>
  )
}
