import { useState } from 'react'
import type { Moment } from '../api/gen/when'
import { PhraseField } from '../kit/phrase'
import { sentences } from './sentences'

/** When a reminder comes once more. */
export function RemindAgain({
  uid,
  remind,
  cancel,
}: {
  uid: string
  remind: (at: Moment) => void
  cancel: () => void
}) {
  const [chosen, setChosen] = useState<Moment | null>(null)
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        if (chosen) remind(chosen)
      }}
    >
      <PhraseField
        id={'again-' + uid}
        label={sentences.remindAgainWhen}
        autoFocus
        placeholder={sentences.in1H}
        onChosen={(c) => setChosen(c?.moment ?? null)}
        onAccept={(c) => remind(c.moment)}
        onCancel={cancel}
      />
    </form>
  )
}
