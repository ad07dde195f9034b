import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { put } from '../../api/client'
import type { LabelView, SiteView } from '../../api/desk'
import { client, useLabels, useSites } from '../../api/queries'
import { plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Keeps, useKept, useTyped } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { labelColors, LabelMark, labelMarks } from '../../kit/label'
import { Select } from '../../kit/select'
import { sentences } from './sentences'

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
        {sentences.labels}
      </h2>
      <p className="mb-2 text-ink-500">{sentences.aLabelIsMade}</p>
      <ul>
        {labels?.map((l) =>
          editing === l.id ? (
            <LabelForm key={l.id} label={l} labels={labels} done={() => setEditing(0)} />
          ) : (
            <li key={l.id} className={line}>
              <LabelMark color={l.color} mark={l.mark} />
              <span className="flex-1">{l.path}</span>
              <Link to={'/find?label=' + l.id} className="text-[12px] text-ink-500 hover:underline">
                {plural(l.count, sentences.conversation)}
              </Link>
              <TextButton small onClick={() => setEditing(l.id)}>
                {sentences.change}
              </TextButton>
              <TextButton small onClick={() => void act(`/labels/${l.id}/drop`)}>
                {sentences.delete}
              </TextButton>
            </li>
          ),
        )}
        {labels?.length === 0 && <li className="text-ink-500">{sentences.thereAreNoneYet}</li>}
      </ul>
    </section>
  )
}

function LabelForm({ label, labels, done }: { label: LabelView; labels: LabelView[]; done: () => void }) {
  const [l, setL, kept] = useTyped('label/' + label.id, label, sentences.aLabel)
  const [wrong, setWrong] = useState('')
  const store = async () => {
    try {
      await put('/labels', l)
      kept()
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
          label={sentences.name}
          value={l.name}
          autoFocus
          wrong={wrong}
          onChange={(e) => setL({ ...l, name: e.target.value })}
        />
        <Select
          label={sentences.below}
          className="min-w-32"
          value={l.parent}
          options={[
            { id: 0, name: sentences.nothing },
            ...labels.filter((o) => o.id !== l.id).map((o) => ({ id: o.id, name: o.path })),
          ]}
          onChange={(parent) => setL({ ...l, parent })}
        />
        <RadioGroup
          label={sentences.colour}
          options={labelColors.map((c) => ({ id: c, name: <LabelMark color={c} mark="dot" />, label: c }))}
          value={l.color}
          onChange={(color) => setL({ ...l, color })}
        />
        <RadioGroup
          label={sentences.mark}
          options={labelMarks.map((m) => ({ id: m, name: <LabelMark color={l.color} mark={m} />, label: m }))}
          value={l.mark}
          onChange={(mark) => setL({ ...l, mark })}
        />
        <Button type="submit">{sentences.save}</Button>
        <Button quiet onClick={done}>
          {sentences.cancel}
        </Button>
      </form>
    </li>
  )
}

/** The places something can wait for. */
export function Places() {
  const { data } = useSites()
  const { act, say } = useDesk()
  const kept = useKept()
  const [name, setName] = useState('')
  const [asking, setAsking] = useState(0)
  const store = (s: { id: number; name: string }) =>
    put<SiteView>('/places', s)
      .then(() => {
        setName('')
        kept.forget('place')
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
        {sentences.places}
      </h2>
      <p className="mb-2 text-ink-500">{sentences.somethingCanBeSnoozed}</p>
      <ul>
        {data?.sites.map((s) => (
          <li key={s.id} className={line} data-place={s.name}>
            <Field
              label={sentences.nameOfThePlace}
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
              {s.waiting > 0 && `${plural(s.waiting, sentences.conversationWaits, sentences.conversationsWait)}`}
            </span>
            <TextButton small onClick={() => drop(s)}>
              {asking === s.id
                ? sentences.deleteItAndBring(plural(s.waiting, sentences.conversation))
                : sentences.delete}
            </TextButton>
          </li>
        ))}
      </ul>
      <Keeps name="place" what={sentences.aPlace}>
        <form
          className="mt-2 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            void store({ id: 0, name })
          }}
        >
          <Field
            id="place-name"
            label={sentences.oneMore}
            placeholder={sentences.theWorkshop}
            value={name}
            maxLength={60}
            onChange={(e) => setName(e.target.value)}
          />
          <Button type="submit" quiet disabled={!name.trim()}>
            {sentences.nameIt}
          </Button>
        </form>
      </Keeps>
    </section>
  )
}
