import { useState } from 'react'
import type { FollowUpView, NewFollowUp } from '../../api/desk'
import type { Item } from '../../api/gen/followup'
import { useFollowUpSettings, useLabels } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { asNew, isOpen } from './parts'

/** Changes parts of a follow-up, each where it stands, or several by one line. */
export function useChanging({ f }: { f: FollowUpView }) {
  const desk = useDesk()
  const { data: s } = useFollowUpSettings()
  const { data: labels } = useLabels()
  const [item, setItem] = useState('')
  const open = isOpen(f)
  const save = (patch: Partial<NewFollowUp>) => desk.step(f.uid, { kind: 'change', change: asNew(f, patch) })
  const merge = (n: NewFollowUp, said: string[]) => {
    const patch: Partial<NewFollowUp> = {}
    const take: Record<string, (keyof NewFollowUp)[]> = {
      title: ['title'],
      due: ['due'],
      start: ['start'],
      priority: ['priority'],
      project: ['project'],
      context: ['context'],
      person: ['with'],
      wait: ['with', 'waits'],
      ask: ['waits'],
      stage: ['stage'],
      effort: ['effort'],
      percent: ['percent'],
    }
    for (const kind of said) for (const k of take[kind] ?? []) Object.assign(patch, { [k]: n[k] })
    if (said.includes('label')) patch.labels = [...(f.labels ?? []), ...(n.labels ?? [])]
    if (said.includes('remind')) patch.reminders = [...(f.reminders ?? []), ...(n.reminders ?? [])]
    if (said.includes('note')) patch.notes = [f.notes, n.notes].filter(Boolean).join('\n')
    if (said.includes('repeat')) {
      patch.repeat = n.repeat
      if (!f.due.at && !said.includes('due')) patch.due = n.due
    }
    return save(patch)
  }
  const items = f.checklist ?? []
  const setItems = (next: Item[]) => save({ checklist: next })
  return { desk, s, labels, item, setItem, open, save, merge, items, setItems }
}
