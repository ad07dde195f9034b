import { XIcon } from '@phosphor-icons/react'
import { useState } from 'react'
import { put, told } from '../../api/client'
import type { DeliveryView } from '../../api/desk'
import type { Notify, Rounds } from '../../api/gen/delivery'
import { refresh, useBoxes } from '../../api/queries'
import { Button, IconButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Field } from '../../kit/field'
import { named, Select } from '../../kit/select'
import { RoundsAt } from './rounds'
import { sentences } from './sentences'

/** What is shown of what is held, and of what the user is notified: all of it in one place. */
export function Choices({ data }: { data: DeliveryView }) {
  const [person, setPerson] = useState('')
  const [wrong, setWrong] = useState('')
  const [allowed, setAllowed] = useState('Notification' in window ? Notification.permission : 'denied')
  const n = data.notify
  const boxes = useBoxes().data ?? []
  const inTeams = boxes.some((b) => b.here && !b.name) && boxes.some((b) => b.name)
  const store = (c: Partial<{ counted: boolean; backWaits: boolean; notify: Notify; letter: Rounds }>) =>
    put('/delivery/choices', { counted: data.counted, backWaits: data.backWaits, notify: n, letter: data.letter, ...c })
      .then(() => {
        refresh(['delivery'])
        setWrong('')
        setPerson('')
      })
      .catch((e: unknown) => setWrong(told(e)))
  const notify = (c: Partial<Notify>) => void store({ notify: { ...n, ...c } })
  const box = (id: string, on: boolean, set: (on: boolean) => void, words: string, disabled = false) => (
    <Checkbox id={id} disabled={disabled} checked={on} onChange={(on) => set(on)} top className="py-0.5">
      {words}
    </Checkbox>
  )
  return (
    <>
      <section aria-labelledby="sight">
        <h2 id="sight" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
          {sentences.whatIsHeld}
        </h2>
        {box('counted', data.counted, (counted) => void store({ counted }), sentences.showHowMuchIs)}
        {box('back-waits', data.backWaits, (backWaits) => void store({ backWaits }), sentences.whatComesBackFrom)}
      </section>
      {inTeams && (
        <section aria-labelledby="letter">
          <h2 id="letter" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
            {sentences.whatConcernsYouInTeams}
          </h2>
          {box(
            'letter-on',
            data.letter.days > 0,
            (on) => void store({ letter: on ? { days: 0b0111110, minute: 9 * 60 } : { days: 0, minute: 0 } }),
            sentences.alsoAsOneMessage,
          )}
          {data.letter.days > 0 && (
            <div className="mt-1 ml-6">
              <RoundsAt id="letter-at" at={data.letter} onEdit={(letter) => void store({ letter })} />
            </div>
          )}
          <p className="mt-1.5 text-[12.5px] text-ink-500">{sentences.onlyWhatYouHaveNotSeen}</p>
        </section>
      )}
      <section aria-labelledby="notify">
        <h2 id="notify" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
          {sentences.notifications}
        </h2>
        {box('notify-on', n.on, (on) => notify({ on }), sentences.notificationsOn)}
        <div className="ml-6">
          {box('notify-rounds', n.rounds, (rounds) => notify({ rounds }), sentences.whenADeliveryBrings, !n.on)}
          {box(
            'notify-important',
            n.important,
            (important) => notify({ important }),
            sentences.whenSomethingVery,
            !n.on,
          )}
          <Select
            label={sentences.whichReminders}
            hideLabel
            small
            className="w-72 py-0.5"
            value={n.reminders}
            disabled={!n.on}
            options={named({
              all: sentences.allReminders,
              urgent: sentences.remindersOfUrgentAnd,
              none: sentences.noReminders,
            })}
            onChange={(reminders) => notify({ reminders })}
          />
          <form
            className="mt-1 flex items-end gap-2"
            onSubmit={(e) => {
              e.preventDefault()
              if (person.trim()) notify({ people: [...n.people, person.trim()] })
            }}
          >
            <Field
              id="notify-person"
              className="w-64"
              label={sentences.whenOneOfThese}
              value={person}
              wrong={wrong}
              disabled={!n.on}
              autoComplete="off"
              placeholder={sentences.anAddressOrDomain}
              onChange={(e) => {
                setPerson(e.target.value)
                setWrong('')
              }}
            />
            <Button type="submit" quiet disabled={!person.trim()}>
              {sentences.add}
            </Button>
          </form>
          {n.people.length > 0 && (
            <ul className="mt-1.5 flex flex-wrap gap-1">
              {n.people.map((p) => (
                <li key={p} className="flex items-center gap-1 rounded-[5px] bg-sand-100 px-1.5 py-px text-[12px]">
                  {p}
                  <IconButton
                    label={sentences.remove(p)}
                    onClick={() => notify({ people: n.people.filter((o) => o !== p) })}
                  >
                    <XIcon size={11} aria-hidden />
                  </IconButton>
                </li>
              ))}
            </ul>
          )}
        </div>
        <p className="mt-1.5 text-[12.5px] text-ink-500">{sentences.inQuietHoursBlocks}</p>
        {allowed === 'granted' ? (
          <p className="text-[12.5px] text-ink-500">{sentences.theyShowAsNotifications}</p>
        ) : allowed === 'denied' ? (
          <p className="text-[12.5px] text-ink-500">{sentences.thisBrowserDoesNot}</p>
        ) : (
          <Button quiet className="mt-1.5" onClick={() => void Notification.requestPermission().then(setAllowed)}>
            {sentences.alsoShowThemOutside}
          </Button>
        )}
      </section>
    </>
  )
}
