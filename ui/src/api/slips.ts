import { useEffect, useSyncExternalStore } from 'react'
import { get } from './client'
import type { Slip } from './desk'

// The slips known by their conversations. Lists hold only the order of the
// conversations; a slip is fetched when it comes into view.
const known = new Map<number, Slip>()
const fresh = new Set<number>()
const asked = new Set<number>()
const listeners = new Set<() => void>()
let wanted: number[] = []
let epoch = 0

const tell = () => {
  for (const l of listeners) l()
}
const subscribe = (l: () => void) => {
  listeners.add(l)
  return () => {
    listeners.delete(l)
  }
}

export function putSlips(slips: Slip[]) {
  for (const s of slips) {
    known.set(s.id, s)
    fresh.add(s.id)
  }
  if (slips.length) tell()
}

export function changeSlip(id: number, change: Partial<Slip>) {
  const slip = known.get(id)
  if (!slip) return
  known.set(id, { ...slip, ...change })
  tell()
}

/** Lets these slips, or all, be fetched anew as they are shown; until then they stay as they are. */
export function staleSlips(ids?: number[]) {
  if (ids) for (const id of ids) fresh.delete(id)
  else fresh.clear()
  epoch++
  tell()
}

export const slipOf = (id: number | undefined) => (id === undefined ? undefined : known.get(id))

const AT_ONCE = 100

/** Fetches what is not known of these slips, many in one request. */
export function wantSlips(ids: number[]) {
  const missing = ids.filter((id) => !fresh.has(id) && !asked.has(id))
  if (!missing.length) return
  for (const id of missing) asked.add(id)
  if (!wanted.length) setTimeout(fetchWanted)
  wanted.push(...missing)
}

function fetchWanted() {
  const all = wanted
  wanted = []
  for (let i = 0; i < all.length; i += AT_ONCE) {
    const ids = all.slice(i, i + AT_ONCE)
    const at = epoch
    get<Slip[]>('/slips?ids=' + ids.join())
      .then((slips) => {
        for (const id of ids) asked.delete(id)
        for (const s of slips) known.set(s.id, s)
        if (at === epoch) for (const id of ids) fresh.add(id)
        tell()
      })
      .catch(() => {
        for (const id of ids) asked.delete(id)
      })
  }
}

/** The slip of a conversation, fetched if it is not known. */
export function useSlip(id: number | undefined): Slip | undefined {
  const slip = useSyncExternalStore(subscribe, () => slipOf(id))
  const at = useSyncExternalStore(subscribe, () => epoch)
  useEffect(() => {
    if (id !== undefined) wantSlips([id])
  }, [id, at])
  return slip
}
