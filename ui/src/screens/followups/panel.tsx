import { PriorityGroup } from '../../kit/priority'
import { Slide } from '../../kit/slide'
import { Select } from '../../kit/select'
import { Field, TextArea } from '../../kit/field'
import { useState } from 'react'
import { Tray } from '../../kit/tray'
import { XIcon } from '@phosphor-icons/react'
import type { FollowUpView, NewFollowUp } from '../../api/desk'
import type { Item, Reminder } from '../../api/gen/followup'
import { useFollowUpSettings, useLabels } from '../../api/queries'
import { clockOf, due, long, minutes } from '../../api/times'
import { Checkbox } from '../../kit/checkbox'
import { LabelChip } from '../../kit/label'
import { LineField, toNew } from '../../kit/line'
import { useDesk } from '../../frame/desk'
import { asNew, isOpen, withName } from './parts'
import { IconButton, TextButton } from '../../kit/button'

/** A reminder in words. */
export function remindWords(r: Reminder) {
  if (!r.of) return long(r.at.at)
  const parts = [r.days && `${r.days} ${r.days === 1 ? 'day' : 'days'}`, r.minutes && minutes(r.minutes)]
    .filter(Boolean)
    .join(' ')
  const at = r.clock !== undefined && r.clock !== null ? ', at ' + clockOf(r.clock) : ''
  return `${parts ? parts + ' before' : 'when'} it ${r.of === 'due' ? 'is due' : 'starts'}${at}`
}

/** All that is kept of a follow-up, each part changed where it stands; the line on top changes several at once. */
export function Panel({ f, wide }: { f: FollowUpView; wide?: boolean }) {
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
  const text = (id: string, label: string, value: string, key: 'project' | 'context', list: string[] = []) => (
    <Row label={label}>
      <Field
        key={value}
        id={`${id}-${f.uid}`}
        label={label}
        hideLabel
        small
        list={id + '-known'}
        defaultValue={value}
        maxLength={80}
        autoComplete="off"
        onBlur={(e) => {
          if (e.target.value.trim() !== value) void save({ [key]: e.target.value })
        }}
        onKeyDown={enterBlurs}
      />
      <datalist id={id + '-known'}>
        {list.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
    </Row>
  )
  return (
    <div className={wide ? 'grid grid-cols-2 gap-x-8 max-[900px]:grid-cols-1' : ''} data-testid="panel">
      <div>
        <LineField
          id={'say-' + (wide ? 'wide' : 'side')}
          label="Change it in one line"
          placeholder="fri 10 / urgent / remind 1 day before"
          autoFocus={wide}
          proposed={{ title: f.title }}
          onAccept={(w) =>
            merge(
              toNew(w.followUp, false),
              w.parts.map((p) => p.kind),
            )
          }
        />
        <Row label="Title">
          <TextArea
            key={f.title}
            rows={2}
            label="Title"
            hideLabel
            small
            defaultValue={f.title}
            maxLength={400}
            onBlur={(e) => {
              if (e.target.value.trim() !== f.title) void save({ title: e.target.value })
            }}
            onKeyDown={enterBlurs}
          />
        </Row>
        <Row label="Due">
          {f.due.at ? (
            <Taken onDrop={() => save({ due: { at: 0 } })} what="the due date">
              {due(f.due)}
            </Taken>
          ) : (
            <None />
          )}
        </Row>
        <Row label="Starts">
          {f.start.at ? (
            <Taken onDrop={() => save({ start: { at: 0 } })} what="the start">
              {due(f.start)}
            </Taken>
          ) : (
            <None />
          )}
        </Row>
        <Row label="Priority">
          <PriorityGroup value={f.priority} disabled={!open} onChange={(priority) => void save({ priority })} />
        </Row>
        <Row label="Stage">
          <Select
            label="Stage"
            hideLabel
            small
            value={f.stage || s?.stages[0]?.id}
            options={s?.stages ?? []}
            onChange={(stage) => void desk.step(f.uid, { kind: 'stage', stage })}
          />
        </Row>
        {text('project', 'Project', f.project ?? '', 'project', s?.projects)}
        {text('context', 'Place or tool', f.context ?? '', 'context', s?.contexts)}
        <Row label="With">
          <Field
            key={withName(f)}
            label="With"
            hideLabel
            small
            defaultValue={withName(f)}
            autoComplete="off"
            onKeyDown={enterBlurs}
            onBlur={(e) => {
              const v = e.target.value.trim()
              if (v !== withName(f)) void save({ with: { name: v, address: v.includes('@') ? v : '' } })
            }}
          />
        </Row>
        {(f.waits.since ?? 0) > 0 && (
          <Row label="Waits">
            since {long(f.waits.since!)}
            {f.waits.ask.at ? `, ask again ${long(f.waits.ask.at)}` : ''}{' '}
            <TextButton className="ml-1" onClick={() => void save({ waits: { ask: { at: 0 } } })}>
              no more
            </TextButton>
          </Row>
        )}
      </div>
      <div>
        <Row label="Labels">
          <span className="flex flex-wrap items-center gap-1">
            {f.labels?.map((l) => (
              <TextButton
                key={l}
                title="Remove this label"
                onClick={() => void save({ labels: f.labels!.filter((x) => x !== l) })}
              >
                <LabelChip id={l} whole />
              </TextButton>
            ))}
            <Select
              label="Add a label"
              hideLabel
              small
              value={0}
              options={[
                { id: 0, name: 'add…' },
                ...(labels ?? []).filter((l) => !f.labels?.includes(l.id)).map((l) => ({ id: l.id, name: l.path })),
              ]}
              onChange={(id) => void (id && save({ labels: [...(f.labels ?? []), id] }))}
            />
          </span>
        </Row>
        <Row label="Effort">
          <Select
            label="Effort"
            hideLabel
            small
            value={f.effort ?? 0}
            options={[...new Set([0, 15, 30, 45, 60, 90, 120, 180, 240, 480, f.effort ?? 0])]
              .sort((a, b) => a - b)
              .map((n) => ({ id: n, name: n ? minutes(n) : 'not set (counts as 30 min)' }))}
            onChange={(effort) => void save({ effort })}
          />
        </Row>
        <Row label="Done">
          <span className="flex items-center gap-2 whitespace-nowrap">
            <Slide
              label="Percent done"
              value={f.percent ?? 0}
              max={100}
              step={10}
              disabled={!open}
              onChange={(percent) => void save({ percent })}
            />
            {f.percent ?? 0} %
          </span>
        </Row>
        <Row label="Reminders">
          {f.reminders?.length ? (
            <ul>
              {f.reminders.map((r, i) => (
                <li key={i}>
                  <Taken onDrop={() => save({ reminders: f.reminders!.filter((_, j) => j !== i) })} what="the reminder">
                    <span className={r.fired ? 'text-ink-500 line-through' : ''}>{remindWords(r)}</span>
                  </Taken>
                </li>
              ))}
            </ul>
          ) : (
            <None />
          )}
        </Row>
        <Row label="Repeats">
          {f.repeat ? (
            <>
              <Taken onDrop={() => save({ repeat: undefined })} what="the repeating">
                {f.repeats}
              </Taken>
              <Checkbox
                checked={!!f.repeat.fromDone}
                onChange={(on) => void save({ repeat: { ...f.repeat!, fromDone: on } })}
                className="mt-1"
              >
                counted from the day it is done
              </Checkbox>
              <Checkbox
                checked={!!f.repeat.daysOff}
                onChange={(on) => void save({ repeat: { ...f.repeat!, daysOff: on } })}
              >
                not on days off
              </Checkbox>
              <Field
                type="date"
                label="A day to leave out"
                small
                onChange={(e) => {
                  if (e.target.value)
                    void save({
                      repeat: {
                        ...f.repeat!,
                        except: [...new Set([...(f.repeat!.except ?? []), e.target.value])].sort(),
                      },
                    })
                }}
              />
              {f.repeat.except?.map((d) => (
                <Taken
                  key={d}
                  what={d}
                  onDrop={() => save({ repeat: { ...f.repeat!, except: f.repeat!.except!.filter((x) => x !== d) } })}
                >
                  not {d}
                </Taken>
              ))}
            </>
          ) : (
            <None />
          )}
        </Row>
        <Row label="Checklist">
          <ul>
            {items.map((i) => (
              <li key={i.uid} className="flex items-center gap-2">
                <Checkbox
                  checked={!!i.done}
                  onChange={(on) => void setItems(items.map((x) => (x.uid === i.uid ? { ...x, done: on } : x)))}
                >
                  <span className={`min-w-0 break-words ${i.done ? 'text-ink-500 line-through' : ''}`}>{i.text}</span>
                </Checkbox>
                <IconButton
                  label={`Delete: ${i.text}`}
                  late
                  onClick={() => void setItems(items.filter((x) => x.uid !== i.uid))}
                >
                  <XIcon size={12} aria-hidden />
                </IconButton>
              </li>
            ))}
          </ul>
          <Field
            label="Add to the checklist"
            hideLabel
            small
            value={item}
            placeholder="add a line"
            className="mt-0.5"
            onChange={(e) => setItem(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter' && !e.nativeEvent.isComposing && item.trim()) {
                e.preventDefault()
                void setItems([...items, { uid: '', text: item.trim() }])
                setItem('')
              }
            }}
          />
        </Row>
        <Row label="Notes">
          <TextArea
            key={f.notes}
            rows={3}
            label="Notes"
            hideLabel
            small
            grows
            defaultValue={f.notes}
            maxLength={8000}
            onBlur={(e) => {
              if (e.target.value.trim() !== (f.notes ?? '')) void save({ notes: e.target.value })
            }}
          />
        </Row>
      </div>
    </div>
  )
}

const enterBlurs = (e: React.KeyboardEvent<HTMLElement>) => {
  if (e.key === 'Enter' && !e.nativeEvent.isComposing) {
    e.preventDefault()
    e.currentTarget.blur()
  }
}

const Row = ({ label, children }: { label: string; children: React.ReactNode }) => (
  <div className="grid grid-cols-[84px_minmax(0,1fr)] items-start gap-2 py-[3px] text-[13px]">
    <span className="pt-[3px] text-[11.5px] font-[650] text-ink-500">{label}</span>
    <div className="min-w-0">{children}</div>
  </div>
)
const None = () => <span className="text-ink-500">—</span>
const Taken = ({ what, onDrop, children }: { what: string; onDrop: () => void; children: React.ReactNode }) => (
  <span className="flex items-center gap-1.5">
    {children}
    <IconButton label={`Remove ${what}`} late onClick={onDrop}>
      <XIcon size={12} aria-hidden />
    </IconButton>
  </span>
)

/** The same above the dock of the list. */
export function PanelTray({ f, onClose }: { f: FollowUpView; onClose: () => void }) {
  return (
    <Tray label="Change the follow-up" testid="change-tray" onClose={onClose}>
      <Panel f={f} wide />
    </Tray>
  )
}
