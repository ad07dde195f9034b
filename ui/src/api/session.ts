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

let leaving = false // whoever signs out is asked nothing about a session that ends with it
let known: Session | undefined // the last one of somebody who was signed in

const query = {
  queryKey: ['session'],
  queryFn: async () => {
    const before = leaving ? undefined : client.getQueryData<Session>(['session'])
    const s = await get<Session>('/session')
    if (s.state === 'in') known = s
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

/** The session of who is signed in; what is drawn a last time after it has ended has it, too. */
export const useMe = () => {
  const { data } = useSession()
  return (data?.state === 'in' ? data : known)!
}

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
  if (leaving) return false
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
  leaving = true
  try {
    await post('/sign-out')
    await clear()
    setLost(false)
    await client.resetQueries()
  } finally {
    leaving = false
  }
}
