import { Select, named } from '../../kit/select'
import { useState } from 'react'
import { put, told } from '../../api/client'
import type { Notify } from '../../api/gen/delivery'
import type { DeliveryView } from '../../api/desk'
import { refresh } from '../../api/queries'
import { Checkbox } from '../../kit/checkbox'
import { Button, IconButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { XIcon } from '@phosphor-icons/react'

/** What is shown of what is held, and of what the user is notified: all of it in one place. */
export function Choices({ data }: { data: DeliveryView }) {
  const [person, setPerson] = useState('')
  const [wrong, setWrong] = useState('')
  const [allowed, setAllowed] = useState('Notification' in window ? Notification.permission : 'denied')
  const n = data.notify
  const store = (c: Partial<{ counted: boolean; backWaits: boolean; notify: Notify }>) =>
    put('/delivery/choices', { counted: data.counted, backWaits: data.backWaits, notify: n, ...c })
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
          What is held
        </h2>
        {box(
          'counted',
          data.counted,
          (counted) => void store({ counted }),
          'Show how much is held; without this it is out of sight',
        )}
        {box(
          'back-waits',
          data.backWaits,
          (backWaits) => void store({ backWaits }),
          'What comes back from a snooze while mail is held waits for the next delivery',
        )}
      </section>
      <section aria-labelledby="notify">
        <h2 id="notify" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
          Notifications
        </h2>
        {box('notify-on', n.on, (on) => notify({ on }), 'Notifications on')}
        <div className="ml-6">
          {box(
            'notify-rounds',
            n.rounds,
            (rounds) => notify({ rounds }),
            'when a delivery brings something, once',
            !n.on,
          )}
          <Select
            label="Which reminders"
            hideLabel
            small
            className="w-72 py-0.5"
            value={n.reminders}
            disabled={!n.on}
            options={named({
              all: 'all reminders',
              urgent: 'reminders of urgent and high follow-ups',
              none: 'no reminders',
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
              label="when one of these people writes"
              value={person}
              wrong={wrong}
              disabled={!n.on}
              autoComplete="off"
              placeholder="an address, or @domain"
              onChange={(e) => {
                setPerson(e.target.value)
                setWrong('')
              }}
            />
            <Button type="submit" quiet disabled={!person.trim()}>
              Add
            </Button>
          </form>
          {n.people.length > 0 && (
            <ul className="mt-1.5 flex flex-wrap gap-1">
              {n.people.map((p) => (
                <li key={p} className="flex items-center gap-1 rounded-[5px] bg-sand-100 px-1.5 py-px text-[12px]">
                  {p}
                  <IconButton label={`Remove ${p}`} onClick={() => notify({ people: n.people.filter((o) => o !== p) })}>
                    <XIcon size={11} aria-hidden />
                  </IconButton>
                </li>
              ))}
            </ul>
          )}
        </div>
        <p className="mt-1.5 text-[12.5px] text-ink-500">
          In quiet hours, blocks and while you hold mail by hand they wait, and come as one.
        </p>
        {allowed === 'granted' ? (
          <p className="text-[12.5px] text-ink-500">They show as notifications of this browser, too.</p>
        ) : allowed === 'denied' ? (
          <p className="text-[12.5px] text-ink-500">
            This browser does not allow notifications: they show in Ebbe only.
          </p>
        ) : (
          <Button quiet className="mt-1.5" onClick={() => void Notification.requestPermission().then(setAllowed)}>
            Also show them outside Ebbe
          </Button>
        )}
      </section>
    </>
  )
}
