import { FastForwardIcon } from '@phosphor-icons/react'
import { useState } from 'react'
import { EbbeError, post } from '../api/client'
import { CardButton } from '../kit/button'
import { Popup } from '../kit/popup'
import { useMe } from '../api/session'
import { addressAs, firstOf } from './demo'
import { FRAME, useCommands } from './commands'
import { useDesk } from './desk'
import { sentences } from './sentences'
import { sentences as later } from './sentences.later'

const dials = [
  { to: 'next', name: sentences.toTheNextThing, note: sentences.mailWhatComesBack },
  { to: 'hour', name: sentences.oneHour, note: '' },
  { to: 'morning', name: sentences.toTomorrow800, note: '' },
]

/** The dial that moves the demo's clock forward. */
export function Dial() {
  const [open, setOpen] = useState(false)
  const { say } = useDesk()
  const me = useMe()
  const others = addressAs('') ? me.people.filter((p) => p !== me.name) : []
  const [turning, setTurning] = useState(false)
  const turn = (to: string) => {
    setTurning(true)
    return post('/demo/clock', { to })
      .catch((e: unknown) =>
        say({ text: e instanceof EbbeError ? e.message : sentences.theClockCouldNot, wrong: true }),
      )
      .finally(() => setTurning(false))
  }
  useCommands(
    dials.map((d) => ({
      id: 'dial-' + d.to,
      name: sentences.demoClock(d.name.toLowerCase()),
      run: () => void turn(d.to),
    })),
    FRAME,
  )
  return (
    <Popup
      label={sentences.moveTheDemosClock}
      look="pill"
      align="end"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <>
          <FastForwardIcon size={14} aria-hidden />{' '}
          <span className={`max-[700px]:sr-only ${turning ? 'opacity-50' : ''}`} data-turning={turning || undefined}>
            {sentences.demoClockTitle}
          </span>
        </>
      }
    >
      <p className="px-2 pt-1 pb-2 text-[12.5px] text-ink-500">{sentences.moveTheClockForward}</p>
      {dials.map((d) => (
        <CardButton
          small
          look="bare"
          key={d.to}
          onClick={() => {
            setOpen(false)
            void turn(d.to)
          }}
        >
          <b>{d.name}</b> <span className="text-[12px] text-ink-500">{d.note}</span>
        </CardButton>
      ))}
      {others.length > 0 && (
        <>
          <p className="mt-1.5 border-t border-sand-200 px-2 pt-2 pb-1 text-[12.5px] text-ink-500">
            {later.beSomebodyElse}
          </p>
          <p className="flex flex-wrap gap-x-4 gap-y-1 px-2 pb-1.5" data-testid="others">
            {others.map((name) => (
              <a
                key={name}
                href={addressAs(firstOf(name))}
                target="_blank"
                rel="noreferrer"
                className="text-[12.5px] font-semibold text-accent hover:underline"
              >
                {later.beNamed(name.split(' ')[0])}
              </a>
            ))}
          </p>
        </>
      )}
    </Popup>
  )
}
