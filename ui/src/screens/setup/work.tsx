import { FileButton } from '../../kit/files'
import { Select } from '../../kit/select'
import { Field } from '../../kit/field'
import { useState } from 'react'
import type { TakenIn } from '../../api/desk'
import type { Meaning, Settings, Stage } from '../../api/gen/followup'
import { newKey, post, put, sendFile, told } from '../../api/client'
import { refresh, useFollowUpSettings } from '../../api/queries'
import { Checkbox } from '../../kit/checkbox'
import { Button, IconButton } from '../../kit/button'
import { useDesk } from '../../frame/desk'

const means: [Meaning, string][] = [
  ['mine', 'mine'],
  ['others', 'with others'],
  ['finished', 'finished'],
]

/** Stages, closing the day, and calendar files. */
export function Work() {
  const { data } = useFollowUpSettings()
  const [wrong, setWrong] = useState('')
  if (!data) return null
  const { projects: _p, contexts: _c, feed, ...settings } = data
  void _p
  void _c
  const save = (patch: Partial<Settings>) =>
    put('/follow-ups/settings', { ...settings, ...patch })
      .then(() => {
        setWrong('')
        refresh(['followups', 'person'])
      })
      .catch((e: unknown) => setWrong(told(e)))
  return (
    <>
      <Stages stages={settings.stages} onStages={(stages) => void save({ stages })} />
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] text-coral-600">
          {wrong}
        </p>
      )}
      <div className="mt-4 flex flex-wrap items-center gap-x-6 gap-y-2">
        <Field
          type="time"
          label="Close the day at"
          small
          className="flex items-baseline gap-2"
          value={
            settings.closeAt < 0
              ? ''
              : `${String(Math.floor(settings.closeAt / 60)).padStart(2, '0')}:${String(settings.closeAt % 60).padStart(2, '0')}`
          }
          onChange={(e) => {
            const [h, m] = e.target.value.split(':').map(Number)
            void save({ closeAt: e.target.value ? h * 60 + m : -1 })
          }}
        />
        <Checkbox checked={settings.closeAt < 0} onChange={(on) => void save({ closeAt: on ? -1 : 17 * 60 })}>
          only when I ask for it
        </Checkbox>
        <Checkbox checked={!settings.keep} onChange={(on) => void save({ keep: !on })}>
          finishing archives the conversation
        </Checkbox>
      </div>
      <Files feed={feed} />
    </>
  )
}

function Stages({ stages, onStages }: { stages: Stage[]; onStages: (s: Stage[]) => void }) {
  const [name, setName] = useState('')
  const change = (i: number, patch: Partial<Stage>) =>
    onStages(stages.map((s, j) => (j === i ? { ...s, ...patch } : s)))
  const move = (i: number, by: number) => {
    const next = [...stages]
    const [s] = next.splice(i, 1)
    next.splice(i + by, 0, s)
    onStages(next)
  }
  return (
    <ul aria-label="Stages" className="max-w-xl">
      {stages.map((s, i) => (
        <li key={s.id} className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-sand-200 py-1">
          <Field
            key={s.name}
            label={`Name of stage ${i + 1}`}
            hideLabel
            small
            defaultValue={s.name}
            maxLength={40}
            className="min-w-28 flex-1"
            onBlur={(e) => {
              if (e.target.value.trim() !== s.name) change(i, { name: e.target.value })
            }}
          />
          <Select
            label={`What ${s.name} means`}
            hideLabel
            small
            className="max-w-full min-w-0"
            value={s.means}
            options={means.map(([id, name]) => ({ id, name }))}
            onChange={(m) => change(i, { means: m })}
          />
          <IconButton label={`Move ${s.name} up`} disabled={i === 0} onClick={() => move(i, -1)}>
            ↑
          </IconButton>
          <IconButton label={`Move ${s.name} down`} disabled={i === stages.length - 1} onClick={() => move(i, 1)}>
            ↓
          </IconButton>
          <IconButton label={`Delete ${s.name}`} late onClick={() => onStages(stages.filter((_, j) => j !== i))}>
            ×
          </IconButton>
        </li>
      ))}
      <li>
        <form
          className="flex items-center gap-2 py-1"
          onSubmit={(e) => {
            e.preventDefault()
            if (name.trim()) {
              onStages([...stages.slice(0, -1), { id: '', name: name.trim(), means: 'mine' }, ...stages.slice(-1)])
              setName('')
            }
          }}
        >
          <Field
            label="A new stage"
            hideLabel
            small
            placeholder="a new stage"
            value={name}
            maxLength={40}
            onChange={(e) => setName(e.target.value)}
            className="min-w-0 flex-1"
          />
          <Button type="submit" quiet disabled={!name.trim()}>
            Add
          </Button>
        </form>
      </li>
    </ul>
  )
}

/** Calendar files in and out, and the private address of the feed. */
function Files({ feed }: { feed: boolean }) {
  const { say } = useDesk()
  const [taken, setTaken] = useState<TakenIn | null>(null)
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const [sure, setSure] = useState(false)
  const take = (file?: File) => {
    if (!file) return
    setBusy(true)
    setWrong('')
    setTaken(null)
    sendFile<TakenIn>('/calendar/file', file, newKey())
      .then((t) => {
        setTaken(t)
        refresh(['followups', 'calendar', 'mail', 'labels'])
      })
      .catch((e: unknown) => setWrong(told(e)))
      .finally(() => setBusy(false))
  }
  const [secret, setSecret] = useState('') // told once, when the address is made
  const setFeed = (off: boolean) =>
    void post<{ feed: string }>('/feed', { off })
      .then((v) => {
        setSecret(v.feed)
        setSure(false)
        refresh(['person'])
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  const address = `${window.location.origin}/feed/${secret}.ics`
  return (
    <div className="mt-5 space-y-3">
      <div className="flex flex-wrap items-center gap-2">
        <FileButton label="A calendar file" accept=".ics,text/calendar" onFiles={([file]) => take(file)}>
          {busy ? 'Reading…' : 'Read a calendar file (.ics)'}
        </FileButton>
        <a
          href="/api/v1/export/ebbe.ics"
          download
          className="rounded-[9px] bg-sand-100 px-3.5 py-2 text-[13px] font-semibold hover:bg-sand-200"
        >
          All as a calendar file
        </a>
        <a
          href="/api/v1/export/follow-ups.csv"
          download
          className="rounded-[9px] bg-sand-100 px-3.5 py-2 text-[13px] font-semibold hover:bg-sand-200"
        >
          Follow-ups as a table (.csv)
        </a>
      </div>
      {taken && (
        <div role="status" data-testid="taken-in" className="text-[12.5px]">
          <b>{taken.text}</b>
          {taken.doubts.map((d) => (
            <p key={d} className="text-amber-600">
              {d}
            </p>
          ))}
        </div>
      )}
      {wrong && (
        <p role="alert" data-testid="file-wrong" className="text-[12.5px] text-coral-600">
          {wrong}
        </p>
      )}
      <div>
        <h3 className="text-[13px]">Private feed</h3>
        {feed ? (
          <>
            <p className="text-[12.5px] text-ink-500">
              Any calendar program can subscribe to this address. Whoever has it can read your follow-ups and events, so
              give it to nobody.
            </p>
            {secret ? (
              <p className="mt-1 text-[12.5px] font-semibold text-amber-600">Copy it now: it is shown this once.</p>
            ) : (
              <p className="mt-1 text-[12.5px] text-ink-500">
                It is on. Its address was shown when it was made, and is not kept in a form that can be read.
              </p>
            )}
            {secret && (
              <Field
                readOnly
                label="Address of the feed"
                hideLabel
                small
                value={address}
                onFocus={(e) => e.target.select()}
                className="mt-1 max-w-2xl"
              />
            )}
            <p className="mt-1.5 flex gap-2">
              {sure ? (
                <>
                  <Button onClick={() => setFeed(false)}>Yes, the old one stops working</Button>
                  <Button quiet onClick={() => setSure(false)}>
                    Cancel
                  </Button>
                </>
              ) : (
                <Button quiet onClick={() => setSure(true)}>
                  A new address
                </Button>
              )}
              <Button quiet onClick={() => setFeed(true)}>
                Switch the feed off
              </Button>
            </p>
          </>
        ) : (
          <p className="flex flex-wrap items-center gap-3 text-[12.5px] text-ink-500">
            It is off. A feed is a secret address at which calendar programs read your follow-ups and events.{' '}
            <Button quiet onClick={() => setFeed(false)}>
              Switch it on
            </Button>
          </p>
        )}
      </div>
    </div>
  )
}
