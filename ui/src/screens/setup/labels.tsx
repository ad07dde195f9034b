import { RadioGroup } from '../../kit/choose'
import { Select } from '../../kit/select'
import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { put } from '../../api/client'
import type { LabelView, SiteView } from '../../api/desk'
import { client, useLabels, useSites } from '../../api/queries'
import { plural } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { LabelMark, labelColors, labelMarks } from '../../kit/label'
import { useDesk } from '../../frame/desk'

const line = 'flex flex-wrap items-center gap-2 border-b border-sand-200 py-1.5'

/** The labels: their names, colours and marks, and what they are below. */
export function Labels() {
  const { data: labels } = useLabels()
  const { act } = useDesk()
  const [editing, setEditing] = useState(0)
  useEffect(() => {
    for (const key of ['labels', 'places']) void client.invalidateQueries({ queryKey: [key] })
  }, []) // their counts
  return (
    <section aria-labelledby="labels">
      <h2 id="labels" className="mb-1 text-[15px]">
        Labels
      </h2>
      <p className="mb-2 text-ink-500">
        A label is made while labelling. Deleting one takes it off everything; that can be taken back.
      </p>
      <ul>
        {labels?.map((l) =>
          editing === l.id ? (
            <LabelForm key={l.id} label={l} labels={labels} done={() => setEditing(0)} />
          ) : (
            <li key={l.id} className={line}>
              <LabelMark color={l.color} mark={l.mark} />
              <span className="flex-1">{l.path}</span>
              <Link to={'/find?label=' + l.id} className="text-[12px] text-ink-500 hover:underline">
                {plural(l.count, 'conversation')}
              </Link>
              <TextButton small onClick={() => setEditing(l.id)}>
                change
              </TextButton>
              <TextButton small onClick={() => void act(`/labels/${l.id}/drop`)}>
                delete
              </TextButton>
            </li>
          ),
        )}
        {labels?.length === 0 && <li className="text-ink-500">There are none yet.</li>}
      </ul>
    </section>
  )
}

function LabelForm({ label, labels, done }: { label: LabelView; labels: LabelView[]; done: () => void }) {
  const [l, setL] = useState(label)
  const [wrong, setWrong] = useState('')
  const store = async () => {
    try {
      await put('/labels', l)
      await client.invalidateQueries({ queryKey: ['labels'] })
      done()
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  return (
    <li className="border-b border-sand-200 py-3">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          void store()
        }}
      >
        <Field
          id="label-name"
          label="Name"
          value={l.name}
          autoFocus
          wrong={wrong}
          onChange={(e) => setL({ ...l, name: e.target.value })}
        />
        <Select
          label="Below"
          className="min-w-32"
          value={l.parent}
          options={[
            { id: 0, name: 'nothing' },
            ...labels.filter((o) => o.id !== l.id).map((o) => ({ id: o.id, name: o.path })),
          ]}
          onChange={(parent) => setL({ ...l, parent })}
        />
        <RadioGroup
          label="Colour"
          options={labelColors.map((c) => ({ id: c, name: <LabelMark color={c} mark="dot" />, label: c }))}
          value={l.color}
          onChange={(color) => setL({ ...l, color })}
        />
        <RadioGroup
          label="Mark"
          options={labelMarks.map((m) => ({ id: m, name: <LabelMark color={l.color} mark={m} />, label: m }))}
          value={l.mark}
          onChange={(mark) => setL({ ...l, mark })}
        />
        <Button type="submit">Save</Button>
        <Button quiet onClick={done}>
          Cancel
        </Button>
      </form>
    </li>
  )
}

/** The places something can wait for. */
export function Places() {
  const { data } = useSites()
  const { act, say } = useDesk()
  const [name, setName] = useState('')
  const [asking, setAsking] = useState(0)
  const store = (s: { id: number; name: string }) =>
    put<SiteView>('/places', s)
      .then(() => {
        setName('')
        return client.invalidateQueries({ queryKey: ['places'] })
      })
      .catch((e: Error) => say({ text: e.message, wrong: true }))
  const drop = (s: SiteView) => {
    if (s.waiting && asking !== s.id) return setAsking(s.id)
    setAsking(0)
    void act(`/places/${s.id}/drop`)
  }
  return (
    <section aria-labelledby="places">
      <h2 id="places" className="mb-1 text-[15px]">
        Places
      </h2>
      <p className="mb-2 text-ink-500">
        Something can be snoozed until you are at one of them. Say where you are beside the date.
      </p>
      <ul>
        {data?.sites.map((s) => (
          <li key={s.id} className={line} data-place={s.name}>
            <Field
              label="Name of the place"
              hideLabel
              small
              defaultValue={s.name}
              maxLength={60}
              onBlur={(e) => {
                if (e.target.value.trim() && e.target.value !== s.name) void store({ id: s.id, name: e.target.value })
              }}
              className="min-w-0 flex-1"
            />
            <span className="text-[12px] text-ink-500">
              {s.waiting > 0 && `${plural(s.waiting, 'conversation waits', 'conversations wait')}`}
            </span>
            <TextButton small onClick={() => drop(s)}>
              {asking === s.id ? `delete it, and bring back the ${s.waiting}` : 'delete'}
            </TextButton>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          void store({ id: 0, name })
        }}
      >
        <Field
          id="place-name"
          label="One more"
          placeholder="the workshop"
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" quiet disabled={!name.trim()}>
          Name it
        </Button>
      </form>
    </section>
  )
}
