import { createContext, type ReactNode, useContext, useMemo, useState } from 'react'
import { post, told } from '../api/client'
import { standingWords, whyHeld } from '../api/delivery'
import type { Moment } from '../api/gen/when'
import { refresh, useDeliveryState } from '../api/queries'
import { Pill } from '../kit/pieces'
import { FRAME, useCommands } from './commands'
import { useDesk } from './desk'
import { sentences } from './sentences'

/** Which of its trays is open. */
export type GateOpen = '' | 'look' | 'all' | 'hold'
interface GateValue {
  tray: GateOpen
  open: (tray: GateOpen) => void
  /** Holds by hand, opens by hand, or lets the plan decide again (''). */
  hand: (mode: '' | 'hold' | 'open', until?: Moment, answer?: string, away?: boolean) => Promise<boolean>
}
const Context = createContext<GateValue | null>(null)
export const useGate = () => useContext(Context)!

/** Where mail is held and let in, on every screen. */
export function GateProvider({ children }: { children: ReactNode }) {
  const [tray, open] = useState<GateOpen>('')
  const { say } = useDesk()
  const value = useMemo<GateValue>(
    () => ({
      tray,
      open,
      hand: async (mode, until = { at: 0 }, answer = '', away = false) => {
        try {
          const { text } = await post<{ text: string }>('/delivery/hand', { mode, from: 0, until, answer, away })
          say({ text })
          refresh(['delivery', 'mail'])
          return true
        } catch (e) {
          say({ text: told(e), wrong: true })
          return false
        }
      },
    }),
    [tray, say],
  )
  return <Context.Provider value={value}>{children}</Context.Provider>
}

/** How delivery stands, in words. One press holds, or lets the plan decide again; what the plan holds is only let in on purpose. */
export function Gate() {
  const g = usePress()
  useCommands(
    [
      { id: 'gate', run: g.press },
      { id: 'look-early', run: () => g.open('look') },
      { id: 'hold-until', run: () => g.open('hold') },
    ],
    FRAME,
  )
  if (!g.words) return null
  return (
    <Pill
      look="frame"
      className="max-[700px]:hidden"
      data-testid="gate"
      title={g.more}
      aria-label={`${g.words}. ${g.more}`}
      onClick={g.press}
    >
      {g.words}
      {g.number}
    </Pill>
  )
}

/** The same on a narrow screen: a line of its own below the rest of the frame. */
export function GateLine() {
  const g = usePress()
  if (!g.words) return null
  return (
    <Pill
      look="line"
      className="min-[701px]:hidden"
      data-testid="gate-line"
      title={g.more}
      aria-label={`${g.words}. ${g.more}`}
      onClick={g.press}
    >
      {g.words}
      {g.number}
    </Pill>
  )
}

function usePress() {
  const state = useDeliveryState()
  const { hand, open } = useGate()
  const press = () => {
    if (!state) return
    const { people } = state
    if (people.hand) void hand('')
    else if (people.state === 'open') void hand('hold')
    else open('look')
  }
  if (!state) return { press, open, words: '', more: '', number: '' }
  const { people, machines, held } = state
  const shut = people.state !== 'open'
  const more = [
    shut && whyHeld(people) + '.',
    held > 0 && sentences.held(held),
    sentences.newslettersAndNotices(standingWords(machines).toLowerCase()),
    people.hand ? sentences.pressToLetThe : shut ? sentences.pressToLookFor : sentences.pressToHold,
  ]
    .filter(Boolean)
    .join(' ')
  return { press, open, words: standingWords(people), more, number: held > 0 ? ` · ${held}` : '' }
}
