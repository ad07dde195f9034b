import { useState } from 'react'
import type { Query } from '../../api/gen/search'
import { useFollowUpSettings, useLabels } from '../../api/queries'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { priorities, priorityName } from '../../kit/kit'
import { Select } from '../../kit/select'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences'

/** Which follow-ups are shown, by all that can be said about them; a filter can be saved as a view. */
export function FilterTray({
  filter,
  onFilter,
  onKeep,
  onClose,
}: {
  filter: Query
  onFilter: (n: Query) => void
  onKeep: (name: string) => void
  onClose: () => void
}) {
  const { data: s } = useFollowUpSettings()
  const { data: labels } = useLabels()
  const [words, setWords] = useState(filter.words ?? '')
  const [name, setName] = useState('')
  const set = (patch: Query) => {
    const next = { ...filter, ...patch } as Record<string, unknown>
    for (const k of Object.keys(next)) if (!next[k]) delete next[k]
    onFilter(next)
  }
  const pick = (label: string, value: string, options: { id: string; name: string }[], on: (v: string) => void) => (
    <Select
      label={label}
      className="min-w-32"
      value={value}
      options={[{ id: '', name: sentences.any }, ...options]}
      onChange={on}
    />
  )
  return (
    <Tray label={sentences.filter} testid="filter-tray" layout="line" onClose={onClose}>
      <form
        className="min-w-52 flex-1"
        onSubmit={(e) => {
          e.preventDefault()
          set({ words: words.trim() })
          onClose()
        }}
      >
        <Field
          id="filter-words"
          label={sentences.withTheseWords}
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
        filter.stage ?? '',
        s?.stages.filter((x) => x.means !== 'finished').map((x) => ({ id: x.id, name: x.name })) ?? [],
        (v) => set({ stage: v }),
      )}
      {pick('Project', filter.project ?? '', s?.projects.map((p) => ({ id: p, name: p })) ?? [], (v) =>
        set({ project: v }),
      )}
      {pick(
        'Priority',
        filter.priority ? String(filter.priority) : '',
        priorities.map((p) => ({ id: String(p), name: priorityName(p) })),
        (v) => set({ priority: Number(v) }),
      )}
      {pick(
        'Label',
        filter.label ? String(filter.label) : '',
        labels?.map((l) => ({ id: String(l.id), name: l.path })) ?? [],
        (v) => set({ label: Number(v) }),
      )}
      {!!s?.contexts.length &&
        pick(
          sentences.placeOrTool,
          filter.context ?? '',
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
          label={sentences.saveAsAView}
          value={name}
          maxLength={60}
          autoComplete="off"
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" quiet disabled={!name.trim()}>
          {sentences.save}
        </Button>
      </form>
      <Button
        quiet
        onClick={() => {
          setWords('')
          onFilter({})
        }}
      >
        {sentences.showAll}
      </Button>
    </Tray>
  )
}
