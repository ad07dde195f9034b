import { useState } from 'react'
import { get, newKey, post, told } from '../../api/client'
import type { ComboFile, CombosRead, TemplateView } from '../../api/desk'
import type { Chain, ComboStep } from '../../api/gen/inbox'
import { useDeliveryState, useLabels, useSettings, useTemplates } from '../../api/queries'
import { useMe } from '../../api/session'
import { useChoice } from '../../frame/choosing'
import { useTyped } from '../../frame/kept'
import { clash, keyName, refused } from '../../frame/keymap'
import { keyOf } from '../../frame/keys'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { FileButton, saveAs } from '../../kit/files'
import { KeepFields } from '../../kit/keeping'
import { Select } from '../../kit/select'
import { useReadRule } from '../rules/asking'
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
  junk: sentences.callItJunk,
  inbox: sentences.bringItBack,
  silence: sentences.silenceIt,
  hear: sentences.hearItAgain,
  stream: sentences.putIntoAStream,
  'forward-to': sentences.forwardIt,
  'hand-over': sentences.handItOver,
  start: sentences.startAMessage,
}

/** What can be asked each time. */
const questions: Record<string, string> = {
  snooze: sentences.askUntilWhen,
  label: sentences.askWhichLabel,
  'follow-up': sentences.askWhat,
  'forward-to': sentences.askToWhom,
  'hand-over': sentences.askToWhom,
  start: sentences.askToWhom,
}

const said = (s: ComboStep, labels: Map<number, string>) =>
  actions[s.kind] +
  (s.ask ? sentences.asks(questions[s.kind]) : '') +
  (s.kind === 'forward-to' || s.kind === 'hand-over' || s.kind === 'start'
    ? s.text
      ? sentences.toSomebody(s.text)
      : ''
    : '') +
  (s.kind === 'label'
    ? ' ' + (s.labels ?? []).map((l) => labels.get(l) ?? '?').join(', ')
    : s.kind === 'follow-up'
      ? `${s.text ? ` “${s.text}”` : ''}${s.phrase ? sentences.due(s.phrase) : ''}`
      : s.phrase
        ? sentences.until(s.phrase)
        : '')

const sizes = [sentences.small, sentences.middle, sentences.large, sentences.largest]
const asOption = (t: TemplateView) => ({ id: String(t.id), name: t.name })

/** The user's own chains of actions, each a button and a key. */
export function Combos() {
  const habits = useSettings().data?.habits
  const choose = useChoice()
  const { data: labels } = useLabels()
  const { say } = useDesk()
  const [editing, setEditing] = useState<Chain | null>(null)
  const [read, setRead] = useState<CombosRead>()
  if (!habits) return null
  const combos = habits.combos ?? []
  const names = new Map(labels?.map((l) => [l.id, l.path]))
  const wrong = (e: unknown) => say({ text: told(e), wrong: true })
  const share = async () => {
    try {
      const { file } = await get<ComboFile>('/combos/file')
      saveAs('combos.json', file, 'application/json')
    } catch (e) {
      wrong(e)
    }
  }
  const readIn = async (file: File) => {
    try {
      setRead(await post<CombosRead>('/combos/file', { file: await file.text() }))
    } catch (e) {
      wrong(e)
    }
  }
  /** Keys that have another meaning here are left off. */
  const take = async (fresh: Chain[]) => {
    const free = (c: Chain) => !clash('', c.key, habits.keys ?? {}) && !combos.some((o) => o.key === c.key)
    const keyed = fresh.map((c) => (c.key && !refused(c.key) && free(c) ? c : { ...c, key: '' }))
    if (await choose({ habits: { combos: [...combos, ...keyed] } })) setRead(undefined)
  }
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
            <span className="min-w-0 flex-1 text-ink-500">
              {c.if && sentences.ifIt(c.if)}
              {c.steps.map((s) => said(s, names)).join(' + ')}
            </span>
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
        <KeepFields value={null}>
          <ComboForm key={editing.id} combo={editing} store={(c) => void store(c)} leave={() => setEditing(null)} />
        </KeepFields>
      ) : (
        <p className="mt-2 flex flex-wrap gap-2">
          <Button quiet onClick={() => setEditing({ id: newKey(), name: '', key: '', steps: [] })}>
            {sentences.makeACombo}
          </Button>
          {combos.length > 0 && (
            <Button quiet onClick={() => void share()}>
              {sentences.shareThem}
            </Button>
          )}
          <FileButton
            label={sentences.aFileOfCombos}
            accept=".json,application/json"
            testid="combo-file"
            onFiles={([file]) => file && void readIn(file)}
          >
            {sentences.takeFromAFile}
          </FileButton>
        </p>
      )}
      {read && (
        <div className="mt-3 rounded-[10px] bg-tide-50 px-3.5 py-2" data-testid="combos-read">
          <ul>
            {read.combos.map((c) => (
              <li key={c.id} className="py-0.5">
                <b>{c.name}</b> {c.if && sentences.ifIt(c.if)}
                {c.steps.map((s) => said(s, names)).join(' + ')}
              </li>
            ))}
            {read.left.map((l) => (
              <li key={l} className="py-0.5 text-ink-500">
                {l}
              </li>
            ))}
          </ul>
          <p className="flex gap-2 pt-2">
            <Button size="middle" disabled={!read.combos.length} onClick={() => void take(read.combos)}>
              {sentences.takeThese(read.combos.length)}
            </Button>
            <Button quiet size="middle" onClick={() => setRead(undefined)}>
              {sentences.cancel}
            </Button>
          </p>
        </div>
      )}
    </Part>
  )
}

function ComboForm({ combo, store, leave }: { combo: Chain; store: (c: Chain) => void; leave: () => void }) {
  const own = useMe().habits
  const { data: labels } = useLabels()
  const [c, setC, done] = useTyped('combo/' + (combo.name ? combo.id : 'new'), combo, sentences.aCombo)
  const { data: templates = [] } = useTemplates()
  const streams = [
    { id: '', name: sentences.whichStream },
    { id: 'people', name: sentences.peoplesMail },
    { id: 'machines', name: sentences.newslettersAndNotices },
    ...(useDeliveryState()?.own ?? []),
  ]
  const [wrong, setWrong] = useState('')
  const condition = useReadRule(0, c.if?.trim() ? `${c.if.trim()}: star` : '', 100).data
  const doubt = c.if?.trim() ? condition?.doubt || condition?.wrong : ''
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
        if (doubt) return
        done()
        store({ ...c, if: c.if?.trim() })
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
        <div className="min-w-56 flex-1">
          <Field
            id="combo-if"
            label={sentences.onlyIf}
            value={c.if ?? ''}
            maxLength={500}
            autoComplete="off"
            placeholder={sentences.fromHarbourWithFiles}
            wrong={doubt}
            onChange={(e) => setC({ ...c, if: e.target.value })}
          />
        </div>
      </div>
      <ol className="mt-3 grid gap-1.5">
        {c.steps.map((s, i) => (
          <li key={i} className="flex flex-wrap items-center gap-2">
            <span className="w-40">
              {i + 1}. {actions[s.kind]}
            </span>
            {questions[s.kind] && (
              <Checkbox checked={!!s.ask} onChange={(ask) => set(i, { ask })}>
                {questions[s.kind]}
              </Checkbox>
            )}
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
            {['forward-to', 'hand-over', 'start'].includes(s.kind) && !(s.ask && s.kind !== 'start') && (
              <Field
                label={sentences.toWhom}
                hideLabel
                small
                type="email"
                autoComplete="off"
                placeholder={s.kind === 'start' ? sentences.toNobodyAReply : sentences.toAnAddress}
                value={s.text ?? ''}
                onChange={(e) => set(i, { text: e.target.value.trim() })}
              />
            )}
            {(s.kind === 'snooze' || s.kind === 'follow-up' || s.kind === 'hand-over') && (
              <Field
                label={sentences.when}
                hideLabel
                small
                placeholder={
                  s.kind === 'snooze'
                    ? sentences.untilNextWeek
                    : s.kind === 'hand-over'
                      ? sentences.answerByFri
                      : sentences.dueFri
                }
                value={s.phrase ?? ''}
                onChange={(e) => set(i, { phrase: e.target.value })}
              />
            )}
            {s.kind === 'stream' && (
              <Select
                label={sentences.whichStream}
                hideLabel
                small
                value={s.stream ?? ''}
                options={streams}
                onChange={(stream) => set(i, { stream })}
              />
            )}
            {s.kind === 'start' && (
              <Select
                label={sentences.template}
                hideLabel
                small
                value={String(s.ref ?? 0)}
                options={[{ id: '0', name: sentences.noTemplate }, ...templates.map(asOption)]}
                onChange={(id) => set(i, { ref: Number(id) })}
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
      <div className="mt-3">
        <p className="mb-1 text-[12px] text-ink-500">{sentences.itsButton}</p>
        <RadioGroup
          label={sentences.itsButton}
          value={c.size ?? 0}
          options={sizes.map((name, id) => ({ id, name }))}
          onChange={(size) => setC({ ...c, size })}
        />
      </div>
      <div className="mt-3 flex gap-2">
        <Button type="submit" disabled={!!doubt}>
          {sentences.saveTheCombo}
        </Button>
        <Button quiet onClick={leave}>
          {sentences.cancel}
        </Button>
      </div>
    </form>
  )
}
