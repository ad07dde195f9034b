import { useState } from 'react'
import { keyed, put } from '../../api/client'
import type { Place } from '../../api/gen/inbox'
import type { Query } from '../../api/gen/search'
import { client, useDeliveryState, useLabels } from '../../api/queries'
import { Keeps, useKept } from '../../frame/kept'
import { Button } from '../../kit/button'
import { Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { LabelMark } from '../../kit/label'
import { Select } from '../../kit/select'
import { Tray } from '../../kit/tray'
import { filtered } from './arranged'
import { sentences } from './sentences.parts'

const places = [
  { id: '', name: sentences.anywhere },
  { id: 'inbox', name: sentences.inTheInbox },
  { id: 'snoozed', name: sentences.snoozed },
  { id: 'archived', name: sentences.inTheArchive },
]

/** Keeps a search as a list in view beside the inbox. */
export function ListTray({ where, onClose }: { where: Query; onClose: () => void }) {
  const { data: labels } = useLabels()
  const [name, setName] = useState('')
  const [query, setQuery] = useState<Query>(where)
  const [wrong, setWrong] = useState('')
  const kept = useKept()
  const [keyOf] = useState(keyed)
  const keep = async () => {
    try {
      const list = { id: 0, name, query, folded: false, counted: false, asked: '', rank: 0 }
      await put('/lists', list, keyOf(list))
      kept.forget('list')
      await client.invalidateQueries({ queryKey: ['lists'] })
      onClose()
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  const set = (q: Query) => {
    setQuery(q)
    setWrong('')
  }
  const said = filtered(query, labels ?? [], useDeliveryState()?.own)
  return (
    <Keeps name="list" what={sentences.aList}>
      <Tray
        label={sentences.aListBesideThe}
        testid="list-tray"
        layout="line"
        onClose={onClose}
        onSubmit={() => {
          void keep()
        }}
      >
        <Field
          id="list-name"
          label={sentences.whatIsTheList}
          value={name}
          autoFocus
          autoComplete="off"
          placeholder={sentences.toRead}
          maxLength={60}
          onChange={(e) => {
            setName(e.target.value)
            setWrong('')
          }}
        />
        <Field
          id="list-words"
          label={sentences.withTheWordsOptional}
          value={query.words ?? ''}
          autoComplete="off"
          onChange={(e) => {
            const q: Query = { ...query, words: e.target.value }
            if (!q.words) delete q.words
            set(q)
          }}
        />
        <Field
          id="list-project"
          label={sentences.ofAProject}
          value={query.project ?? ''}
          autoComplete="off"
          maxLength={100}
          onChange={(e) => {
            const q: Query = { ...query, project: e.target.value }
            if (!q.project) delete q.project
            set(q)
          }}
        />
        <div>
          <span className="mb-1 block text-[11.5px] font-[650] text-ink-500">{sentences.labelledTitle}</span>
          <div className="flex max-w-md flex-wrap gap-1">
            {labels?.map((l) => (
              <Toggle
                key={l.id}
                on={query.label === l.id}
                onChange={(on) => {
                  const q: Query = { ...query, label: l.id }
                  if (!on) delete q.label
                  set(q)
                }}
              >
                <LabelMark color={l.color} mark={l.mark} />
                {l.path}
              </Toggle>
            ))}
            {(
              [
                ['starred', 'starred'],
                ['flagged', sentences.withAFollowUp],
              ] as const
            ).map(([k, words]) => (
              <Toggle
                key={k}
                on={!!query[k]}
                onChange={(on) => {
                  const q: Query = { ...query, [k]: true }
                  if (!on) delete q[k]
                  set(q)
                }}
              >
                {words}
              </Toggle>
            ))}
          </div>
        </div>
        <Select
          label={sentences.where}
          value={query.place ?? ''}
          options={places}
          onChange={(place) => {
            const q: Query = { ...query, place: place as Place }
            if (!q.place) delete q.place
            set(q)
          }}
        />
        <Button type="submit">{sentences.saveTheList}</Button>
        <p
          className={`w-full text-[12.5px] ${wrong ? 'text-coral-600' : 'text-ink-500'}`}
          role={wrong ? 'alert' : undefined}
        >
          {wrong || (said ? sentences.itHoldsWhatIs(said) : sentences.sayWhatIsOn)}
        </p>
      </Tray>
    </Keeps>
  )
}
