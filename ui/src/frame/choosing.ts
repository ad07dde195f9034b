import { useCallback } from 'react'
import { mine, newKey, patch, told } from '../api/client'
import type { Settings } from '../api/desk'
import type { Decided } from '../api/gen/journal'
import { client, refresh } from '../api/queries'
import { useDesk } from './desk'

/** Some of the settings, as they are to be (a JSON Merge Patch): lists whole, and a key of null as usual. */
export type Choice = Partial<Pick<Settings, 'theme' | 'addresses'>> & {
  week?: Partial<Settings['week']>
  habits?: Partial<Omit<Settings['habits'], 'keys'>> & { keys?: Record<string, string | null> | null }
  followUp?: Partial<Settings['followUp']>
}

type Keys = Record<string, string>
const withKeys = (own: Keys | null, keys?: Record<string, string | null> | null) =>
  keys === null
    ? {}
    : (Object.fromEntries(Object.entries({ ...own, ...keys }).filter(([, key]) => key !== null)) as Keys)

const merged = (s: Settings, c: Choice): Settings => ({
  ...s,
  ...c,
  week: { ...s.week, ...c.week },
  habits: { ...s.habits, ...c.habits, keys: withKeys(s.habits.keys, c.habits?.keys) },
  followUp: { ...s.followUp, ...c.followUp },
})

let last = Promise.resolve()
let waiting = 0

/**
 * Changes what the user has set up: it is seen at once, said when it is done, and taken back like a decision. One
 * change goes after the other. What is wrong is given, and not said.
 */
export function useChoosing() {
  const { say } = useDesk()
  return useCallback(
    (choice: Choice): Promise<string | undefined> => {
      const before = client.getQueryData<Settings>(['settings'])
      client.setQueryData<Settings>(['settings'], (s) => s && merged(s, choice))
      waiting++
      const one = last.then(async () => {
        try {
          const done = await patch<Decided>('/settings', choice, mine(newKey()))
          if (done.text) say({ text: done.text, undo: done.entry > 0 })
          return undefined
        } catch (e) {
          client.setQueryData(['settings'], before) // what is shown is what is so, also while the program is away
          return told(e)
        } finally {
          if (--waiting === 0) refresh(['person', 'mail', 'followups', 'cards', 'delivery'])
        }
      })
      last = one.then(() => {})
      return one
    },
    [say],
  )
}

/** The same, for what has no place beside it where one is told what is wrong. It gives whether it was done. */
export function useChoice() {
  const choose = useChoosing()
  const { say } = useDesk()
  return useCallback(
    async (choice: Choice) => {
      const wrong = await choose(choice)
      if (wrong) say({ text: wrong, wrong: true })
      return !wrong
    },
    [choose, say],
  )
}
