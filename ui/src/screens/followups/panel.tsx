import { XIcon } from '@phosphor-icons/react'
import type { FollowUpView } from '../../api/desk'
import type { Reminder } from '../../api/gen/followup'
import { clockOf, due, long, minutes } from '../../api/times'
import { Keeps } from '../../frame/kept'
import { IconButton, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Field, TextArea } from '../../kit/field'
import { LabelChip } from '../../kit/label'
import { LineField, toNew } from '../../kit/line'
import { PriorityGroup } from '../../kit/priority'
import { Select } from '../../kit/select'
import { Slide } from '../../kit/slide'
import { Tray } from '../../kit/tray'
import { useChanging } from './changing'
import { asksAgain, withName } from './parts'
import { sentences } from './sentences'

/** A reminder in words. */
export function remindWords(r: Reminder) {
  if (!r.of) return long(r.at.at)
  const parts = [r.days && `${r.days} ${r.days === 1 ? 'day' : 'days'}`, r.minutes && minutes(r.minutes)]
    .filter(Boolean)
    .join(' ')
  const at = r.clock !== undefined && r.clock !== null ? sentences.atJoined(clockOf(r.clock)) : ''
  return sentences.beforeIt(
    parts ? sentences.before(parts) : sentences.when,
    r.of === 'due' ? sentences.isDue : sentences.starts,
    at,
  )
}

/** All that is kept of a follow-up, each part changed where it stands; the line on top changes several at once. */
export function Panel(props: { f: FollowUpView; wide?: boolean }) {
  const { f, wide } = props
  const { desk, s, labels, item, setItem, open, save, merge, items, setItems } = useChanging(props)
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
    <Keeps name={`follow-up/${f.uid}/${wide ? 'wide' : 'side'}`} what={sentences.changesOf(f.title)}>
      <div className={wide ? 'grid grid-cols-2 gap-x-8 max-[900px]:grid-cols-1' : ''} data-testid="panel">
        <div>
          <LineField
            id={'say-' + (wide ? 'wide' : 'side')}
            label={sentences.changeItInOne}
            placeholder={sentences.fri10UrgentRemind}
            autoFocus={wide}
            proposed={{ title: f.title }}
            onAccept={(w) =>
              merge(
                toNew(w.followUp, false),
                w.parts.map((p) => p.kind),
              )
            }
          />
          <Row label={sentences.titleLabel}>
            <TextArea
              key={f.title}
              rows={2}
              label={sentences.titleLabel}
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
          <Row label={sentences.dueTitle}>
            {f.due.at ? (
              <Taken onDrop={() => save({ due: { at: 0 } })} what={sentences.theDueDate}>
                {due(f.due)}
              </Taken>
            ) : (
              <None />
            )}
          </Row>
          <Row label={sentences.startsTitle}>
            {f.start.at ? (
              <Taken onDrop={() => save({ start: { at: 0 } })} what={sentences.theStart}>
                {due(f.start)}
              </Taken>
            ) : (
              <None />
            )}
          </Row>
          <Row label={sentences.priority}>
            <PriorityGroup value={f.priority} disabled={!open} onChange={(priority) => void save({ priority })} />
          </Row>
          <Row label={sentences.stage}>
            <Select
              label={sentences.stage}
              hideLabel
              small
              value={f.stage || s?.stages[0]?.id}
              options={s?.stages ?? []}
              onChange={(stage) => void desk.step(f.uid, { kind: 'stage', stage })}
            />
          </Row>
          {text('project', 'Project', f.project ?? '', 'project', s?.projects)}
          {text('context', sentences.placeOrTool, f.context ?? '', 'context', s?.contexts)}
          <Row label={sentences.withTitle}>
            <Field
              key={withName(f)}
              label={sentences.withTitle}
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
            <Row label={sentences.waits}>
              {sentences.since(
                long(f.waits.since!),
                (f.waits.ask.at ? ', ' + asksAgain(f, long(f.waits.ask.at)) : '') + (f.asking ? ', ' + f.asking : ''),
              )}{' '}
              <TextButton className="ml-1" onClick={() => void save({ waits: { ask: { at: 0 } } })}>
                {sentences.noMore}
              </TextButton>
            </Row>
          )}
        </div>
        <div>
          <Row label={sentences.labels}>
            <span className="flex flex-wrap items-center gap-1">
              {f.labels?.map((l) => (
                <TextButton
                  key={l}
                  title={sentences.removeThisLabel}
                  onClick={() => void save({ labels: f.labels!.filter((x) => x !== l) })}
                >
                  <LabelChip id={l} whole />
                </TextButton>
              ))}
              <Select
                label={sentences.addALabel}
                hideLabel
                small
                value={0}
                options={[
                  { id: 0, name: sentences.add },
                  ...(labels ?? []).filter((l) => !f.labels?.includes(l.id)).map((l) => ({ id: l.id, name: l.path })),
                ]}
                onChange={(id) => void (id && save({ labels: [...(f.labels ?? []), id] }))}
              />
            </span>
          </Row>
          <Row label={sentences.effort}>
            <Select
              label={sentences.effort}
              hideLabel
              small
              value={f.effort ?? 0}
              options={[...new Set([0, 15, 30, 45, 60, 90, 120, 180, 240, 480, f.effort ?? 0])]
                .sort((a, b) => a - b)
                .map((n) => ({ id: n, name: n ? minutes(n) : sentences.notSetCountsAs }))}
              onChange={(effort) => void save({ effort })}
            />
          </Row>
          <Row label={sentences.done}>
            <span className="flex items-center gap-2 whitespace-nowrap">
              <Slide
                label={sentences.percentDone}
                value={f.percent ?? 0}
                max={100}
                step={10}
                disabled={!open}
                onChange={(percent) => void save({ percent })}
              />
              {f.percent ?? 0} %
            </span>
          </Row>
          <Row label={sentences.reminders}>
            {f.reminders?.length ? (
              <ul>
                {f.reminders.map((r, i) => (
                  <li key={i}>
                    <Taken
                      onDrop={() => save({ reminders: f.reminders!.filter((_, j) => j !== i) })}
                      what={sentences.theReminder}
                    >
                      <span className={r.fired ? 'text-ink-500 line-through' : ''}>{remindWords(r)}</span>
                    </Taken>
                  </li>
                ))}
              </ul>
            ) : (
              <None />
            )}
          </Row>
          <Row label={sentences.repeats}>
            {f.repeat ? (
              <>
                <Taken onDrop={() => save({ repeat: undefined })} what={sentences.theRepeating}>
                  {f.repeats}
                </Taken>
                <Checkbox
                  checked={!!f.repeat.fromDone}
                  onChange={(on) => void save({ repeat: { ...f.repeat!, fromDone: on } })}
                  className="mt-1"
                >
                  {sentences.countedFromTheDay}
                </Checkbox>
                <Checkbox
                  checked={!!f.repeat.daysOff}
                  onChange={(on) => void save({ repeat: { ...f.repeat!, daysOff: on } })}
                >
                  {sentences.notOnDaysOff}
                </Checkbox>
                <Field
                  type="date"
                  label={sentences.aDayToLeave}
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
                    {sentences.not(d)}
                  </Taken>
                ))}
              </>
            ) : (
              <None />
            )}
          </Row>
          <Row label={sentences.checklist}>
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
                    label={sentences.delete(i.text)}
                    late
                    onClick={() => void setItems(items.filter((x) => x.uid !== i.uid))}
                  >
                    <XIcon size={12} aria-hidden />
                  </IconButton>
                </li>
              ))}
            </ul>
            <Field
              label={sentences.addToTheChecklist}
              hideLabel
              small
              value={item}
              placeholder={sentences.addALine}
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
          <Row label={sentences.notes}>
            <TextArea
              key={f.notes}
              rows={3}
              label={sentences.notes}
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
    </Keeps>
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
    <IconButton label={sentences.remove(what)} late onClick={onDrop}>
      <XIcon size={12} aria-hidden />
    </IconButton>
  </span>
)

/** The same above the dock of the list. */
export function PanelTray({ f, onClose }: { f: FollowUpView; onClose: () => void }) {
  return (
    <Tray label={sentences.changeTheFollowUp} testid="change-tray" onClose={onClose}>
      <Panel f={f} wide />
    </Tray>
  )
}
