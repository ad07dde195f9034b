import { useState } from 'react'
import { newKey, post, put, sendFile, told } from '../../api/client'
import type { TakenIn } from '../../api/desk'
import type { Meaning, Settings, Stage } from '../../api/gen/followup'
import { refresh, useFollowUpSettings } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { Button, IconButton, LinkButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Dialog } from '../../kit/dialog'
import { Field } from '../../kit/field'
import { FileButton } from '../../kit/files'
import { Notice } from '../../kit/notice'
import { Select } from '../../kit/select'
import { sentences } from './sentences'

const means: [Meaning, string][] = [
  ['mine', 'mine'],
  ['others', sentences.withOthers],
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
      {wrong && <Notice className="mt-1">{wrong}</Notice>}
      <div className="mt-4 flex flex-wrap items-center gap-x-6 gap-y-2">
        <Field
          type="time"
          label={sentences.closeTheDayAt}
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
          {sentences.onlyWhenIAsk}
        </Checkbox>
        <Checkbox checked={!settings.keep} onChange={(on) => void save({ keep: !on })}>
          {sentences.finishingArchivesThe}
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
    <ul aria-label={sentences.stages} className="max-w-xl">
      {stages.map((s, i) => (
        <li key={s.id} className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-sand-200 py-1">
          <Field
            key={s.name}
            label={sentences.nameOfStage(i + 1)}
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
            label={sentences.whatMeans(s.name)}
            hideLabel
            small
            className="max-w-full min-w-0"
            value={s.means}
            options={means.map(([id, name]) => ({ id, name }))}
            onChange={(m) => change(i, { means: m })}
          />
          <IconButton label={sentences.moveUp(s.name)} disabled={i === 0} onClick={() => move(i, -1)}>
            ↑
          </IconButton>
          <IconButton label={sentences.moveDown(s.name)} disabled={i === stages.length - 1} onClick={() => move(i, 1)}>
            ↓
          </IconButton>
          <IconButton
            label={sentences.deleteNamed(s.name)}
            late
            onClick={() => onStages(stages.filter((_, j) => j !== i))}
          >
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
            label={sentences.aNewStage}
            hideLabel
            small
            placeholder={sentences.aNewStageShort}
            value={name}
            maxLength={40}
            onChange={(e) => setName(e.target.value)}
            className="min-w-0 flex-1"
          />
          <Button type="submit" quiet disabled={!name.trim()}>
            {sentences.add}
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
        refresh(['person'])
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  const address = `${window.location.origin}/feed/${secret}.ics`
  return (
    <div className="mt-5 space-y-3">
      <div className="flex flex-wrap items-center gap-2">
        <FileButton label={sentences.aCalendarFile} accept=".ics,text/calendar" onFiles={([file]) => take(file)}>
          {busy ? sentences.reading : sentences.readACalendarFile}
        </FileButton>
        <LinkButton quiet href="/api/v1/export/ebbe.ics" download>
          {sentences.allAsACalendar}
        </LinkButton>
        <LinkButton quiet href="/api/v1/export/follow-ups.csv" download>
          {sentences.followUpsAsA}
        </LinkButton>
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
      {wrong && <Notice testid="file-wrong">{wrong}</Notice>}
      <div>
        <h3 className="text-[13px]">{sentences.privateFeed}</h3>
        {feed ? (
          <>
            <p className="text-[12.5px] text-ink-500">{sentences.anyCalendarProgramCan}</p>
            {secret ? (
              <p className="mt-1 text-[12.5px] font-semibold text-amber-600">{sentences.copyItNowIt}</p>
            ) : (
              <p className="mt-1 text-[12.5px] text-ink-500">{sentences.itIsOnIts}</p>
            )}
            {secret && (
              <Field
                readOnly
                label={sentences.addressOfTheFeed}
                hideLabel
                small
                value={address}
                onFocus={(e) => e.target.select()}
                className="mt-1 max-w-2xl"
              />
            )}
            <p className="mt-1.5 flex gap-2">
              <Dialog
                title={sentences.aNewAddressFor}
                text={sentences.programsThatReadThe}
                does={sentences.makeANewAddress}
                onDo={() => setFeed(false)}
              >
                <Button quiet>{sentences.newAddress}</Button>
              </Dialog>
              <Dialog
                title={sentences.switchTheFeedOff}
                text={sentences.programsThatReadIt}
                does={sentences.switchItOff}
                onDo={() => setFeed(true)}
              >
                <Button quiet>{sentences.switchTheFeedOffAsk}</Button>
              </Dialog>
            </p>
          </>
        ) : (
          <p className="flex flex-wrap items-center gap-3 text-[12.5px] text-ink-500">
            {sentences.itIsOffA}{' '}
            <Button quiet onClick={() => setFeed(false)}>
              {sentences.switchItOn}
            </Button>
          </p>
        )}
      </div>
    </div>
  )
}
