import { useSyncExternalStore } from 'react'
import { useMe } from '../api/session'

/** A conversation that is kept open, and the address at which it was left: with its tray and the file beside it. */
export interface Opening {
  id: number
  path: string
}

/** How many conversations can be kept open. */
export const MOST_OPEN = 12

// They are kept for this browser, each person's by themselves, and are the same in all of its windows.
const nameOf = (who: string) => 'ebbe-open-' + who
const listeners = new Set<() => void>()
const tell = () => {
  for (const l of listeners) l()
}
const subscribe = (l: () => void) => {
  listeners.add(l)
  window.addEventListener('storage', l)
  return () => {
    listeners.delete(l)
    window.removeEventListener('storage', l)
  }
}

const pathOf = (id: number) => '/c/' + id

/** Openings as they were kept; what cannot be read, or leads elsewhere, is none. */
export function read(text: string | null): Opening[] {
  try {
    const kept: unknown = JSON.parse(text ?? '[]')
    if (!Array.isArray(kept)) return []
    const out: Opening[] = []
    for (const k of kept as Partial<Opening>[]) {
      const id = Number(k?.id)
      if (!Number.isSafeInteger(id) || id <= 0 || out.some((o) => o.id === id)) continue
      const path = typeof k.path === 'string' && k.path.split('?')[0] === pathOf(id) ? k.path : pathOf(id)
      out.push({ id, path })
    }
    return out.slice(0, MOST_OPEN)
  } catch {
    return []
  }
}

/** Those with one more at the end; as they are, if it is there or there is no room. */
export const withOne = (all: Opening[], id: number, path = pathOf(id)) =>
  all.some((o) => o.id === id) || all.length >= MOST_OPEN ? all : [...all, { id, path }]

/** Those with the address at which one of them was left. */
export const leftAt = (all: Opening[], id: number, path: string) => all.map((o) => (o.id === id ? { id, path } : o))

/** The one that is so many steps on from where one is; 0 is the queue, which is before the first. */
export function stepFrom(all: Opening[], id: number, by: number) {
  const places = [0, ...all.map((o) => o.id)]
  const at = Math.max(places.indexOf(id), 0)
  return places[(at + by + places.length) % places.length]
}

let last: { text: string | null; all: Opening[] } = { text: null, all: [] }
const known = (who: string) => {
  const text = localStorage.getItem(nameOf(who))
  if (text !== last.text) last = { text, all: read(text) }
  return last.all
}

/** What is kept open, and how to change it. */
export function useOpenings() {
  const who = useMe().keep
  const all = useSyncExternalStore(subscribe, () => known(who))
  const set = (change: (all: Opening[]) => Opening[]) => {
    localStorage.setItem(nameOf(who), JSON.stringify(change(known(who))))
    tell()
  }
  return [all, set] as const
}
