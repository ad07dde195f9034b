import { useState } from 'react'
import type { NewFollowUp } from '../../api/gen/desk'
import type { FollowUp } from '../../api/gen/followup'
import type { Moment } from '../../api/gen/when'
import { long, due as dueText } from '../../api/times'
import { Button, Field, priorities, priorityName, Waves } from '../../kit/kit'
import { PhraseField, type Chosen } from '../../kit/phrase'
import { onEscape } from './write'

interface Props {
  title: string
  many?: number // for so many conversations at once
  change?: FollowUp // an existing one is changed
  onMake: (f: NewFollowUp) => void
  onClose: () => void
}

const none: Moment = { at: 0 }

/** What has to be done, by when, how urgently, and when to be reminded. */
export function FollowUpTray({ title: proposed, many = 1, change, onMake, onClose }: Props) {
  const [title, setTitle] = useState(change?.title ?? proposed)
  const [priority, setPriority] = useState(change?.priority ?? 5)
  const [leaves, setLeaves] = useState(true)
  const [due, setDue] = useState<Moment>(change?.due ?? none)
  const [remind, setRemind] = useState<Moment>(change?.remind ?? none)
  const [wrong, setWrong] = useState('')
  const make = (changes: { due?: Moment; remind?: Moment } = {}) => {
    if (!title.trim() && many < 2) return setWrong('Write what has to be done.')
    onMake({ title, priority, due, remind, keep: !leaves, ...changes })
  }
  const pick = (set: (m: Moment) => void, before: Moment) => (c: Chosen | null) => set(c ? c.moment : before)
  return (
    <form
      aria-label={change ? 'Change the follow-up' : 'Follow-up'}
      className="ebb grid grid-cols-[minmax(220px,1.4fr)_minmax(180px,1fr)_minmax(180px,1fr)] gap-x-5 gap-y-1 border-b border-sand-200 bg-sand-0 px-[18px] pt-3.5 pb-3 max-[900px]:grid-cols-1"
      data-testid="followup-tray"
      onKeyDown={onEscape(onClose)}
      onSubmit={(e) => { e.preventDefault(); make() }}
    >
      <div>
        <Field id="followup-title" label={many > 1 ? `What has to be done? Empty: “Reply to …” for each of the ${many}` : 'What has to be done?'} value={title} maxLength={400} wrong={wrong} autoFocus autoComplete="off"
          onFocus={(e) => e.target.select()} onChange={(e) => { setTitle(e.target.value); setWrong('') }} />
        <fieldset className="mt-2 flex items-center gap-1" aria-label="Priority">
          {priorities.map((p) => (
            <label key={p} className={`flex cursor-pointer items-center gap-1.5 rounded-[7px] px-2 py-1 text-[12px] has-focus-visible:outline-2 has-focus-visible:outline-tide-400 ${priority === p ? 'bg-tide-100 font-semibold text-tide-800' : 'text-ink-500 hover:bg-sand-100'}`}>
              <input type="radio" name="priority" value={p} checked={priority === p} onChange={() => setPriority(p)} className="sr-only" />
              <Waves priority={p} />{priorityName(p)}
            </label>
          ))}
        </fieldset>
      </div>
      <div>
        <PhraseField id="followup-due" label={change?.due.at ? `Due ${dueText(change.due)}. Another day?` : 'Due when? (may stay empty)'} placeholder="thu noon" whole optional
          onChosen={pick(setDue, change?.due ?? none)} onAccept={(c) => make({ due: c.moment })} />
        {!!change?.due.at && due.at !== 0 && <button type="button" className="text-[12px] text-accent" onClick={() => setDue(none)}>Without a date</button>}
      </div>
      <div>
        <PhraseField id="followup-remind" label={change?.remind.at ? `Reminder ${long(change.remind.at)}. Another?` : 'Remind me when? (may stay empty)'} placeholder="thu 9" optional
          onChosen={pick(setRemind, change?.remind ?? none)} onAccept={(c) => make({ remind: c.moment })} />
        <div className="flex items-center justify-between gap-3">
          {change ? <span /> : (
            <label className="flex items-center gap-2 text-[12.5px]">
              <input type="checkbox" checked={leaves} onChange={(e) => setLeaves(e.target.checked)} className="accent-[var(--fill)]" />the mail leaves the inbox
            </label>
          )}
          <Button type="submit">{change ? 'Change' : 'Make it'}</Button>
        </div>
      </div>
    </form>
  )
}
