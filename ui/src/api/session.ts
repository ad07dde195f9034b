import { useQuery } from '@tanstack/react-query'
import { useSyncExternalStore } from 'react'
import { get, post, renewWith, setToken } from './client'
import type { Session } from './desk'
import { client } from './queries'
import { wake } from './reach'

// A session may end while a screen is open. The screen stays with all that is on it, until the same person has signed
// in there again.
let lost = false
const listeners = new Set<() => void>()
function setLost(is: boolean) {
  if (lost === is) return
  lost = is
  for (const l of listeners) l()
}

const query = {
  queryKey: ['session'],
  queryFn: async () => {
    const before = client.getQueryData<Session>(['session'])
    const s = await get<Session>('/session')
    if (before?.state !== 'in') return s
    if (s.state === 'in' && s.keep !== before.keep) {
      location.reload() // somebody else has signed in: nothing on this page is theirs, nor is anything of it sent for them
      return new Promise<Session>(() => {})
    }
    setLost(s.state !== 'in')
    return s.state === 'in' ? s : before
  },
}
export const useSession = () => useQuery(query)

/** Whether who was signed in here is not any more. */
export const useLost = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l)
      return () => listeners.delete(l)
    },
    () => lost,
  )

/** Asks whether there is a session of the same person, and takes it; whether there is. */
export const askForSession = async () => {
  try {
    const s = await client.fetchQuery({ ...query, staleTime: 0 })
    setToken(s.csrf)
    return s.state === 'in' && !lost
  } catch {
    return false
  }
}
renewWith(askForSession)

/** Signs the same person in again, in place: what waits goes on. */
export async function signInAgain(path: '/sign-in' | '/demo/sign-in', body: unknown) {
  await post(path, body)
  if (!(await askForSession())) return
  wake()
  void client.invalidateQueries()
}

/** Signs out, here and in all windows; what the browser keeps of the person goes between. */
export async function signOut(clear: () => Promise<void>) {
  await post('/sign-out')
  await clear()
  setLost(false)
  await client.resetQueries()
}
