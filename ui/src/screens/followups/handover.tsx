import { useState } from 'react'
import { Tray } from '../../kit/tray'
import type { FollowUpView } from '../../api/desk'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { PhraseField, type Chosen } from '../../kit/phrase'
import type { Step } from '../../frame/desk'
import { withName } from './parts'

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
  const [ask, setAsk] = useState<Chosen | null>(null)
  const person = () => (name === withName(f) ? f.with : { name, address: name.includes('@') ? name : '' })
  const hand = (c = ask) => onHand({ kind: 'wait', with: person(), ask: c?.moment, seen: 'open' })
  return (
    <Tray
      label="Wait for somebody"
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
        label="Who acts next? Their answer ends the waiting"
        value={name}
        autoFocus={!name}
        autoComplete="off"
        onChange={(e) => setName(e.target.value)}
      />
      <div className="min-w-52 flex-1">
        <PhraseField
          id="hand-ask"
          label="Ask again when? (optional)"
          placeholder="in 3 days"
          autoFocus={!!name}
          optional
          onChosen={setAsk}
          onAccept={hand}
          onCancel={onClose}
        />
      </div>
      <Button type="submit" className="mt-[21px]">
        Wait for them
      </Button>
      <p className="basis-full text-[12px] text-ink-500">
        It goes to the stage “with others” and into Waiting. Nothing is sent to them. To forward them the mail too, open
        that and press 4.
      </p>
    </Tray>
  )
}
