import { useState } from 'react'
import { newKey } from '../../api/client'
import type { Chain, ComboStep } from '../../api/gen/inbox'
import { useLabels, useSettings } from '../../api/queries'
import { useSession } from '../../api/session'
import { useChoice } from '../../frame/choosing'
import { useTyped } from '../../frame/kept'
import { clash, keyName, refused } from '../../frame/keymap'
import { keyOf } from '../../frame/keys'
import { Button, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Field } from '../../kit/field'
import { Part } from './part'
import { sentences } from './sentences'

const actions: Record<string, string> = {
  read: sentences.markRead,
  star: sentences.star,
  label: sentences.label,
  finish: sentences.finishItsFollowUps,
  'follow-up': sentences.makeAFollowUp,
  snooze: sentences.snooze,
  archive: sentences.archive,
  bin: sentences.bin,
  unstar: sentences.takeTheStarAway,
  unread: sentences.markUnread,
}

const said = (s: ComboStep, labels: Map<number, string>) =>
  actions[s.kind] +
  (s.kind === 'label'
    ? ' ' + (s.labels ?? []).map((l) => labels.get(l) ?? '?').join(', ')
    : s.kind === 'follow-up'
      ? `${s.text ? ` “${s.text}”` : ''}${s.phrase ? sentences.due(s.phrase) : ''}`
      : s.phrase
        ? sentences.until(s.phrase)
        : '')

/** The user's own chains of actions, each a button and a key. */
export function Combos() {
  const habits = useSettings().data?.habits
  const choose = useChoice()
  const { data: labels } = useLabels()
  const [editing, setEditing] = useState<Chain | null>(null)
  if (!habits) return null
  const combos = habits.combos ?? []
  const names = new Map(labels?.map((l) => [l.id, l.path]))
  const store = async (c: Chain) => {
    const known = combos.some((o) => o.id === c.id)
    if (await choose({ habits: { combos: known ? combos.map((o) => (o.id === c.id ? c : o)) : [...combos, c] } }))
      setEditing(null)
  }
  return (
    <Part id="combos" name={sentences.combos} about={sentences.yourOwnChainsOf}>
      <ul>
        {combos.map((c) => (
          <li key={c.id} className="flex flex-wrap items-baseline gap-2 border-b border-sand-200 py-1.5">
            <b>{c.name}</b>
            {c.key && <span className="text-[12px] text-ink-500">{keyName(c.key)}</span>}
            <span className="min-w-0 flex-1 text-ink-500">{c.steps.map((s) => said(s, names)).join(' + ')}</span>
            <TextButton small onClick={() => setEditing(c)}>
              {sentences.change}
            </TextButton>
            <TextButton small onClick={() => void choose({ habits: { combos: combos.filter((o) => o.id !== c.id) } })}>
              {sentences.delete}
            </TextButton>
          </li>
        ))}
      </ul>
      {editing ? (
        <ComboForm key={editing.id} combo={editing} store={(c) => void store(c)} leave={() => setEditing(null)} />
      ) : (
        <Button quiet className="mt-2" onClick={() => setEditing({ id: newKey(), name: '', key: '', steps: [] })}>
          {sentences.makeACombo}
        </Button>
      )}
    </Part>
  )
}

function ComboForm({ combo, store, leave }: { combo: Chain; store: (c: Chain) => void; leave: () => void }) {
  const own = useSession().data!.habits
  const { data: labels } = useLabels()
  const [c, setC, done] = useTyped('combo/' + (combo.name ? combo.id : 'new'), combo, sentences.aCombo)
  const [wrong, setWrong] = useState('')
  const set = (i: number, s: Partial<ComboStep>) =>
    setC({ ...c, steps: c.steps.map((o, n) => (n === i ? { ...o, ...s } : o)) })
  const press = (e: React.KeyboardEvent) => {
    if (['Tab', 'Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) return
    e.preventDefault()
    e.stopPropagation()
    if (e.key === 'Backspace' || e.key === 'Escape') return setC({ ...c, key: '' })
    const key = keyOf(e.nativeEvent)
    const other = clash('', key, own.keys ?? {})
    const combo = (own.combos ?? []).find((o) => o.id !== c.id && o.key === key)
    const no =
      refused(key) ||
      (other
        ? sentences.isTheKeyOf(keyName(key), other.name)
        : combo
          ? sentences.isTheKeyOfNamed(keyName(key), combo.name)
          : '')
    setWrong(no)
    if (!no) setC({ ...c, key })
  }
  return (
    <form
      className="mt-3 rounded-[10px] border border-sand-300 p-4"
      aria-label={sentences.combo}
      onSubmit={(e) => {
        e.preventDefault()
        done()
        store(c)
      }}
    >
      <div className="flex flex-wrap gap-3">
        <Field
          id="combo-name"
          label={sentences.name}
          value={c.name}
          autoFocus
          maxLength={60}
          placeholder={sentences.forThisWeek}
          onChange={(e) => setC({ ...c, name: e.target.value })}
        />
        <Field
          id="combo-key"
          label={sentences.keyPressItOptional}
          value={c.key ? keyName(c.key) : ''}
          readOnly
          wrong={wrong}
          onKeyDown={press}
          onChange={() => {}}
        />
      </div>
      <ol className="mt-3 grid gap-1.5">
        {c.steps.map((s, i) => (
          <li key={i} className="flex flex-wrap items-center gap-2">
            <span className="w-40">
              {i + 1}. {actions[s.kind]}
            </span>
            {s.kind === 'follow-up' && (
              <Field
                label={sentences.title}
                hideLabel
                small
                placeholder={sentences.titleEmptyAsProposed}
                value={s.text ?? ''}
                onChange={(e) => set(i, { text: e.target.value })}
              />
            )}
            {(s.kind === 'snooze' || s.kind === 'follow-up') && (
              <Field
                label={sentences.when}
                hideLabel
                small
                placeholder={s.kind === 'snooze' ? sentences.untilNextWeek : sentences.dueFri}
                value={s.phrase ?? ''}
                onChange={(e) => set(i, { phrase: e.target.value })}
              />
            )}
            {s.kind === 'label' &&
              labels?.map((l) => (
                <Checkbox
                  key={l.id}
                  checked={!!s.labels?.includes(l.id)}
                  onChange={(on) =>
                    set(i, {
                      labels: on ? [...(s.labels ?? []), l.id] : s.labels?.filter((x) => x !== l.id),
                    })
                  }
                >
                  {l.path}
                </Checkbox>
              ))}
            <TextButton small onClick={() => setC({ ...c, steps: c.steps.filter((_, n) => n !== i) })}>
              {sentences.takeOut}
            </TextButton>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap items-center gap-1.5" role="group" aria-label={sentences.addAnAction}>
        <span className="text-[12px] text-ink-500">{sentences.then}</span>
        {Object.entries(actions).map(([k, name]) => (
          <Button size="small" ground="quiet" key={k} onClick={() => setC({ ...c, steps: [...c.steps, { kind: k }] })}>
            {name}
          </Button>
        ))}
      </div>
      <div className="mt-3 flex gap-2">
        <Button type="submit">{sentences.saveTheCombo}</Button>
        <Button quiet onClick={leave}>
          {sentences.cancel}
        </Button>
      </div>
    </form>
  )
}
