import { useState } from 'react'
import { Tray } from '../../kit/tray'
import type { LabelView } from '../../api/desk'
import type { Narrow, Stage } from '../../api/gen/followup'
import { useFollowUpSettings, useLabels } from '../../api/queries'
import { dateOf } from '../../api/times'
import { Button, Field, priorities, priorityName } from '../../kit/kit'

const groups: Record<string, string> = {
  late: 'late',
  today: 'due today',
  tomorrow: 'due tomorrow',
  'this-week': 'this week',
  'next-weeks': 'next weeks',
  'no-date': 'without a date',
}

/** What narrows the follow-ups, each in words. */
export function narrowWords(n: Narrow, known: { stages: Stage[]; labels: LabelView[] }): string[] {
  return [
    n.day && 'due ' + dateOf(n.day),
    n.group && groups[n.group],
    n.stage && (known.stages.find((s) => s.id === n.stage)?.name ?? 'a stage'),
    n.project && 'project ' + n.project,
    n.person && 'with ' + n.person,
    n.context && 'at ' + n.context,
    n.priority && priorityName(n.priority),
    n.label && 'label ' + (known.labels.find((l) => l.id === n.label)?.path ?? ''),
    n.words && `“${n.words}”`,
  ].filter((w): w is string => !!w)
}

/** Any view narrowed by the others and by words; what is narrowed can be kept under a name. */
export function NarrowTray({
  narrow,
  onNarrow,
  onKeep,
  onClose,
}: {
  narrow: Narrow
  onNarrow: (n: Narrow) => void
  onKeep: (name: string) => void
  onClose: () => void
}) {
  const { data: s } = useFollowUpSettings()
  const { data: labels } = useLabels()
  const [words, setWords] = useState(narrow.words ?? '')
  const [name, setName] = useState('')
  const set = (patch: Narrow) => {
    const next = { ...narrow, ...patch } as Record<string, unknown>
    for (const k of Object.keys(next)) if (!next[k]) delete next[k]
    onNarrow(next)
  }
  const pick = (label: string, value: string, options: { id: string; name: string }[], on: (v: string) => void) => (
    <label className="text-[11.5px] font-[650] text-ink-500">
      {label}
      <select
        value={value}
        onChange={(e) => on(e.target.value)}
        className="mt-1 block w-full min-w-32 rounded-[9px] border border-sand-300 bg-sand-0 px-2 py-[7px] text-[13px] font-normal text-ink-900"
      >
        <option value="">any</option>
        {options.map((o) => (
          <option key={o.id} value={o.id}>
            {o.name}
          </option>
        ))}
      </select>
    </label>
  )
  return (
    <Tray label="Narrow" testid="narrow-tray" layout="line" onClose={onClose}>
      <form
        className="min-w-52 flex-1"
        onSubmit={(e) => {
          e.preventDefault()
          set({ words: words.trim() })
          onClose()
        }}
      >
        <Field
          id="narrow-words"
          label="With these words"
          value={words}
          autoFocus
          autoComplete="off"
          maxLength={200}
          onChange={(e) => {
            setWords(e.target.value)
            set({ words: e.target.value.trim() })
          }}
        />
      </form>
      {pick(
        'Stage',
        narrow.stage ?? '',
        s?.stages.filter((x) => x.means !== 'finished').map((x) => ({ id: x.id, name: x.name })) ?? [],
        (v) => set({ stage: v }),
      )}
      {pick('Project', narrow.project ?? '', s?.projects.map((p) => ({ id: p, name: p })) ?? [], (v) =>
        set({ project: v }),
      )}
      {pick(
        'Priority',
        narrow.priority ? String(narrow.priority) : '',
        priorities.map((p) => ({ id: String(p), name: priorityName(p) })),
        (v) => set({ priority: Number(v) }),
      )}
      {pick(
        'Label',
        narrow.label ? String(narrow.label) : '',
        labels?.map((l) => ({ id: String(l.id), name: l.path })) ?? [],
        (v) => set({ label: Number(v) }),
      )}
      {!!s?.contexts.length &&
        pick(
          'Place or tool',
          narrow.context ?? '',
          s.contexts.map((p) => ({ id: p, name: p })),
          (v) => set({ context: v }),
        )}
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (name.trim()) {
            onKeep(name.trim())
            setName('')
            onClose()
          }
        }}
      >
        <Field
          id="view-name"
          className="w-40"
          label="Keep this view as"
          value={name}
          maxLength={60}
          autoComplete="off"
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" quiet disabled={!name.trim()}>
          Keep
        </Button>
      </form>
      <Button
        quiet
        onClick={() => {
          setWords('')
          onNarrow({})
        }}
      >
        All again
      </Button>
    </Tray>
  )
}
