import { useState } from 'react'
import type { NewFollowUp } from '../../api/desk'
import type { Written } from '../../api/gen/followup'
import type { Moment } from '../../api/gen/when'
import { useProposal } from '../../api/queries'
import { due as dueText } from '../../api/times'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Chip } from '../../kit/kit'
import { LineField, toNew } from '../../kit/line'
import type { Said } from '../../kit/parts'
import { PriorityGroup } from '../../kit/priority'
import { Tray } from '../../kit/tray'
import { Picker } from './picker'
import { sentences } from './sentences.trays'

interface Props {
  id?: number // of the conversation
  many?: number // for so many conversations at once
  onMake: (f: NewFollowUp) => void
  onClose: () => void
}

const none: Moment = { at: 0 }
const blank = {
  status: 'needs-action',
  priority: 5,
  start: none,
  due: none,
  with: { address: '' },
  card: false,
  waits: { ask: none },
  conversation: 0,
  message: '',
  made: 0,
  finished: 0,
  uid: '',
}

/** What has to be done: proposed from the message, and in one line all that is to be said of it. */
export function FollowUpTray({ id, many = 1, onMake, onClose }: Props) {
  const several = many > 1
  const { data: proposal } = useProposal(several ? undefined : id)
  const [title, setTitle] = useState<string>()
  const [priority, setPriority] = useState<number>()
  const [dated, setDated] = useState(true)
  const [filed, setFiled] = useState(true)
  const [leaves, setLeaves] = useState(true)
  const [written, setWritten] = useState<Written | null>(null)
  const [wrong, setWrong] = useState('')
  const [said, setSaid] = useState<Said>()
  const proposed = {
    title: title ?? proposal?.title ?? '',
    due: dated && proposal?.due.at ? proposal.due : undefined,
    project: filed ? proposal?.project : undefined,
  }
  const make = (w: Written | null) => {
    const f = w?.followUp ?? { ...blank, title: proposed.title, due: proposed.due ?? none, project: proposed.project }
    if (!f.title.trim() && !several) return setWrong(sentences.writeWhatHasTo)
    const said = w?.parts.some((p) => p.kind === 'priority')
    onMake({
      ...toNew(f, !leaves),
      title: several && title === undefined && !w?.parts.some((p) => p.kind === 'title') ? '' : f.title,
      priority: (said ? undefined : priority) ?? f.priority,
    })
  }
  if (!several && !proposal)
    return <Tray label={sentences.followUp} testid="followup-tray" layout="halves" busy onClose={onClose} />
  const line = written?.parts.find((p) => p.kind === 'title')
  const say = (kind: string, words: string) => setSaid((s) => ({ kind, words, n: (s?.n ?? 0) + 1 }))
  return (
    <Tray
      label={sentences.followUp}
      testid="followup-tray"
      layout="halves"
      onClose={onClose}
      onSubmit={() => {
        make(written)
      }}
    >
      <div>
        <Field
          id="followup-title"
          label={several ? sentences.whatHasToBe(many) : sentences.whatHasToBeQuestion}
          value={line ? line.text : proposed.title}
          disabled={!!line}
          maxLength={400}
          wrong={wrong}
          autoComplete="off"
          onChange={(e) => {
            setTitle(e.target.value)
            setWrong('')
          }}
        />
        <p
          className="mt-1.5 flex min-h-[22px] flex-wrap items-center gap-1.5 text-[12px] text-ink-500"
          data-testid="proposed"
        >
          {proposal?.known && <Chip tone="due">{sentences.itHasAnOpen}</Chip>}
          {!!proposal?.due.at && !written?.parts.some((p) => p.kind === 'due') && (
            <Toggle
              on={dated}
              title={dated ? sentences.theTextSaysPress(proposal.dueText) : sentences.pressToTakeThe}
              onChange={setDated}
            >
              {sentences.due(dueText(proposal.due))} <span className="font-normal">— “{proposal.dueText}”</span>
            </Toggle>
          )}
          {!!proposal?.project && !written?.parts.some((p) => p.kind === 'project') && (
            <Toggle
              on={filed}
              title={filed ? sentences.asWithThemBefore : sentences.pressToTakeTheTitle}
              onChange={setFiled}
            >
              {sentences.project(proposal.project)}
            </Toggle>
          )}
        </p>
        <PriorityGroup
          className="mt-1"
          value={written?.parts.some((x) => x.kind === 'priority') ? (written.followUp.priority ?? 5) : (priority ?? 5)}
          onChange={setPriority}
        />
      </div>
      <div>
        <LineField
          id="followup-line"
          label={sentences.everythingElseInOne}
          placeholder={sentences.fri10OpeningUrgent}
          autoFocus
          proposed={several ? { title: ' ' } : proposed}
          said={said}
          onWritten={setWritten}
          onAccept={(w) => make(w)}
          onCancel={onClose}
        />
        <div className="mt-1 flex items-center justify-between gap-3">
          <Checkbox checked={leaves} onChange={(on) => setLeaves(on)}>
            {sentences.theMailLeavesThe}
          </Checkbox>
          <Button type="submit">{sentences.makeIt}</Button>
        </div>
      </div>
      <Picker written={written} say={say} />
    </Tray>
  )
}
