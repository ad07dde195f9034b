import { useState } from 'react'
import type { Chain, ComboStep } from '../../api/gen/inbox'
import type { Address } from '../../api/gen/mail'
import { useLabels } from '../../api/queries'
import { Button } from '../../kit/button'
import { Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { useKeptValue } from '../../kit/keptvalue'
import { LabelMark } from '../../kit/label'
import { PeopleField } from '../../kit/people'
import { PhraseField } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

interface Props {
  combo: Chain
  onRun: (answers: ComboStep[]) => void
  onClose: () => void
}

/** What a combo asks each time, all at once; Enter does it. */
export function ComboTray({ combo, onRun, onClose }: Props) {
  const [answers, setAnswers] = useState<ComboStep[]>(() => combo.steps.map((s) => ({ kind: s.kind })))
  const [people, setPeople] = useKeptValue<Record<number, Address[]>>('combo-people', {})
  const [labels, setLabels] = useKeptValue<Record<number, number[]>>('combo-labels', {})
  const answer = (i: number, a: Partial<ComboStep>) =>
    setAnswers((all) => all.map((o, n) => (n === i ? { ...o, ...a } : o)))
  const run = () =>
    onRun(answers.map((a, i) => ({ ...a, text: people[i]?.[0]?.address ?? a.text, labels: labels[i] ?? a.labels })))
  const first = combo.steps.findIndex((s) => s.ask)
  return (
    <Tray label={combo.name} testid="combo-tray" layout="row" onClose={onClose} onSubmit={run}>
      {combo.steps.map(
        (s, i) =>
          s.ask && (
            <Asked
              key={i}
              id={'combo-ask-' + i}
              step={s}
              text={answers[i].text ?? s.text ?? ''}
              first={i === first}
              people={people[i] ?? []}
              labels={labels[i] ?? []}
              onPeople={(list) => setPeople({ ...people, [i]: list.slice(-1) })}
              onLabels={(list) => setLabels({ ...labels, [i]: list })}
              onAnswer={(a) => answer(i, a)}
              onDone={run}
              onClose={onClose}
            />
          ),
      )}
      <div className="self-end">
        <Button type="submit">{combo.name}</Button>
      </div>
    </Tray>
  )
}

interface AskedProps {
  id: string
  step: ComboStep
  text: string // as answered until now
  first: boolean
  people: Address[]
  labels: number[]
  onPeople: (people: Address[]) => void
  onLabels: (labels: number[]) => void
  onAnswer: (a: Partial<ComboStep>) => void
  onDone: () => void
  onClose: () => void
}

function Asked({ id, step, text, first, people, labels, onPeople, onLabels, onAnswer, onDone, onClose }: AskedProps) {
  const { data } = useLabels()
  const phrase = (label: string, optional = false) => (
    <div className="min-w-48 flex-1">
      <PhraseField
        id={id + '-when'}
        label={label}
        placeholder={sentences.friAfterLunch}
        initial={step.phrase}
        optional={optional}
        autoFocus={first && step.kind === 'snooze'}
        onText={(text) => onAnswer({ phrase: text })}
        onChosen={() => {}}
        onAccept={onDone}
        onCancel={onClose}
      />
    </div>
  )
  switch (step.kind) {
    case 'snooze':
      return phrase(sentences.untilWhen)
    case 'label':
      return (
        <div role="group" aria-label={sentences.withWhichLabel}>
          <p className="mb-1.5 text-[11.5px] font-[650] text-ink-500">{sentences.withWhichLabel}</p>
          <div className="flex max-w-xl flex-wrap gap-1">
            {data?.map((l) => (
              <Toggle
                key={l.id}
                on={labels.includes(l.id) || !!step.labels?.includes(l.id)}
                onChange={(on) => onLabels(on ? [...labels, l.id] : labels.filter((x) => x !== l.id))}
              >
                <LabelMark color={l.color} mark={l.mark} />
                {l.path}
              </Toggle>
            ))}
          </div>
        </div>
      )
    case 'follow-up':
      return (
        <>
          <Field
            id={id}
            label={sentences.whatHasToBeQuestion}
            autoFocus={first}
            autoComplete="off"
            value={text}
            onChange={(e) => onAnswer({ text: e.target.value })}
          />
          {phrase(sentences.dueWhen, true)}
        </>
      )
  }
  return (
    <>
      <div className="w-80 max-w-full shrink-0 pt-[22px]">
        <PeopleField
          id={id}
          label={step.kind === 'start' ? sentences.toWhomOrAReply : sentences.toWhom}
          people={people}
          autoFocus={first}
          onChange={onPeople}
        />
      </div>
      {step.kind === 'hand-over' && phrase(sentences.answerByWhen, true)}
    </>
  )
}
