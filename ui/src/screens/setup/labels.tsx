import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { mine, newKey, put, told } from '../../api/client'
import type { LabelView } from '../../api/desk'
import type { Decided } from '../../api/gen/journal'
import { refresh, useLabels } from '../../api/queries'
import { plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { labelColors, LabelMark, labelMarks } from '../../kit/label'
import { SavedField } from '../../kit/saved'
import { Select } from '../../kit/select'
import { Part } from './part'
import { sentences } from './sentences'

/** The labels: their names, colours and marks, and what they are below. */
export function Labels() {
  const { data: labels } = useLabels()
  const { act } = useDesk()
  const [open, setOpen] = useState(0)
  useEffect(() => refresh(['labels']), []) // their counts
  return (
    <Part id="labels" name={sentences.labels} about={sentences.aLabelIsMade}>
      <ul>
        {labels?.map((l) => (
          <li key={l.id} className="border-b border-sand-200">
            <div className="flex flex-wrap items-center gap-2 py-1.5">
              <LabelMark color={l.color} mark={l.mark} />
              <span className="flex-1">{l.path}</span>
              <Link
                to={'/find?asked=' + encodeURIComponent(`label “${l.path}”`)}
                className="text-[12px] text-ink-500 hover:underline"
              >
                {plural(l.count, sentences.conversation)}
              </Link>
              <TextButton
                small
                aria-expanded={open === l.id}
                aria-label={sentences.changeNamed(l.path)}
                onClick={() => setOpen(open === l.id ? 0 : l.id)}
              >
                {sentences.change}
              </TextButton>
              <TextButton
                small
                aria-label={sentences.deleteNamed(l.path)}
                onClick={() => void act(`/labels/${l.id}/drop`)}
              >
                {sentences.delete}
              </TextButton>
            </div>
            {open === l.id && <LabelForm label={l} labels={labels} done={() => setOpen(0)} />}
          </li>
        ))}
        {labels?.length === 0 && <li className="text-ink-500">{sentences.thereAreNoneYet}</li>}
      </ul>
    </Part>
  )
}

/** What a label is like, each part saved as it is changed. */
function LabelForm({ label, labels, done }: { label: LabelView; labels: LabelView[]; done: () => void }) {
  const { say } = useDesk()
  const change = async (part: Partial<LabelView>) => {
    try {
      const changed = await put<Decided>('/labels', { ...label, ...part }, mine(newKey()))
      if (changed.text) say({ text: changed.text, undo: true })
      refresh(['labels', 'mail'])
      return undefined
    } catch (e) {
      return told(e)
    }
  }
  const choose = (part: Partial<LabelView>) =>
    void change(part).then((wrong) => {
      if (wrong) say({ text: wrong, wrong: true })
    })
  return (
    <div className="flex flex-wrap items-end gap-3 pt-1 pb-4">
      <SavedField
        id={'label-' + label.id}
        label={sentences.name}
        value={label.name}
        onSave={(name) => change({ name })}
      />
      <Select
        label={sentences.below}
        className="min-w-32"
        value={label.parent}
        options={[
          { id: 0, name: sentences.nothing },
          ...labels.filter((o) => o.id !== label.id).map((o) => ({ id: o.id, name: o.path })),
        ]}
        onChange={(parent) => choose({ parent })}
      />
      <RadioGroup
        label={sentences.colour}
        options={labelColors.map((c) => ({ id: c, name: <LabelMark color={c} mark="dot" />, label: c }))}
        value={label.color}
        onChange={(color) => choose({ color })}
      />
      <RadioGroup
        label={sentences.mark}
        options={labelMarks.map((m) => ({ id: m, name: <LabelMark color={label.color} mark={m} />, label: m }))}
        value={label.mark}
        onChange={(mark) => choose({ mark })}
      />
      <Button quiet onClick={done}>
        {sentences.fold}
      </Button>
    </div>
  )
}
