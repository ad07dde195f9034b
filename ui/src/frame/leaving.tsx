import { createContext, type ReactNode, Suspense, useContext, useMemo, useState } from 'react'
import { told } from '../api/client'
import { signOut } from '../api/session'
import { plural } from '../api/times'
import { useDesk } from './desk'
import { useKept } from './kept'
import { sentences } from './sentences'
import { AskToLeave } from './trays'

const Context = createContext<() => Promise<void>>(() => Promise.resolve())
/** Signs out; where something has not reached the program it asks before, as that goes with it. */
export const useLeaving = () => useContext(Context)

export function LeavingProvider({ children }: { children: ReactNode }) {
  const kept = useKept()
  const { say } = useDesk()
  const [unsent, setUnsent] = useState('')
  const leave = useMemo(
    () => async () => {
      try {
        await signOut(() => kept.clear())
      } catch (e) {
        say({ text: told(e), wrong: true })
      }
    },
    [kept, say],
  )
  const ask = useMemo(
    () => async () => {
      const elsewhere = await kept.elsewhere()
      const decisions = (await kept.decided()).length + elsewhere.decisions
      const what = [
        decisions && plural(decisions, sentences.decision, sentences.decisions),
        ...[...kept.unfinished(), ...elsewhere.typed].map((t) => t.what),
      ].filter(Boolean)
      if (what.length) setUnsent(what.join('; '))
      else await leave()
    },
    [kept, leave],
  )
  return (
    <Context value={ask}>
      {children}
      {unsent && (
        <Suspense fallback={null}>
          <AskToLeave unsent={unsent} stay={() => setUnsent('')} leave={() => void leave()} />
        </Suspense>
      )}
    </Context>
  )
}
