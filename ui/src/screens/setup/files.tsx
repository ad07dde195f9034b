import { useState } from 'react'
import { api } from '../../api/base'
import { newKey, post, sendFile, told } from '../../api/client'
import type { TakenIn } from '../../api/desk'
import { refresh, useFollowUpSettings } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { Button, LinkButton } from '../../kit/button'
import { Dialog } from '../../kit/dialog'
import { Field } from '../../kit/field'
import { FileButton } from '../../kit/files'
import { Notice } from '../../kit/notice'
import { Part } from './part'
import { sentences } from './sentences'

/** Calendar files in and out, and the private address of the feed. */
export function Files() {
  const feed = useFollowUpSettings().data?.feed
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
    <Part id="calendar" name={sentences.calendarFiles} about={sentences.filesForOther}>
      <div className="flex flex-wrap items-center gap-2">
        <FileButton label={sentences.aCalendarFile} accept=".ics,text/calendar" onFiles={([file]) => take(file)}>
          {busy ? sentences.reading : sentences.readACalendarFile}
        </FileButton>
        <LinkButton quiet href={api + '/export/ebbe.ics'} download>
          {sentences.allAsACalendar}
        </LinkButton>
        <LinkButton quiet href={api + '/export/follow-ups.csv'} download>
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
        <h3 className="mt-6 mb-1 text-[14px]">{sentences.privateFeed}</h3>
        {feed === undefined ? null : feed ? (
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
    </Part>
  )
}
