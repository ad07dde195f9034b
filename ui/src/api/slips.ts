import { useCallback, useSyncExternalStore } from 'react'
import { get } from './client'
import type { Slip } from './desk'

// The slips known by their conversations. Lists hold only the order of the
// conversations; a slip is fetched when it comes into view.
const known = new Map<number, Slip>()
const heaps = new Set<number>() // digests, which are few
const fresh = new Set<number>()
const asked = new Set<number>()
let wanted: number[] = []

// When which slip became stale, and all of them, counted: what was asked for before that is asked for again.
const staleAt = new Map<number, number>()
let allStaleAt = 0
let epoch = 0

// Who shows which slip: they alone are told of what becomes of it.
const shown = new Map<number, Set<() => void>>()
const show = (id: number, changed: () => void) => {
  const all = shown.get(id) ?? new Set()
  shown.set(id, all.add(changed))
  wantSlips([id])
  return () => {
    all.delete(changed)
    if (!all.size) shown.delete(id)
  }
}
const tell = (ids: number[]) => {
  for (const id of ids) for (const changed of shown.get(id) ?? []) changed()
}

function put(slips: Slip[]) {
  for (const s of slips) {
    known.set(s.id, s)
    if (s.id < 0) heaps.add(s.id)
  }
  tell(slips.map((s) => s.id))
}

export function putSlips(slips: Slip[]) {
  for (const s of slips) fresh.add(s.id)
  put(slips)
}

export function changeSlip(id: number, change: Partial<Slip>) {
  const slip = known.get(id)
  if (slip) put([{ ...slip, ...change }])
}

/** Fetches these slips, or all, anew: those that are shown at once; until then they stay as they are. */
export function staleSlips(ids?: number[]) {
  epoch++
  for (const id of ids ?? []) {
    fresh.delete(id)
    staleAt.set(id, epoch)
  }
  if (!ids) {
    fresh.clear()
    staleAt.clear()
    allStaleAt = epoch
  }
  wantSlips((ids ?? [...shown.keys()]).filter((id) => shown.has(id)))
}

export const slipOf = (id: number | undefined) => (id === undefined ? undefined : known.get(id))

/** Conversations, with those of a digest in its place. */
export const whole = (ids: number[]) => ids.flatMap((id) => slipOf(id)?.of ?? id)

/** The digests these conversations are of, each with what it holds and what of that is none of them. */
export function digestsOf(ids: number[]): { id: number; of: number[]; rest: number[] }[] {
  const gone = new Set(ids)
  return [...heaps]
    .map((id) => ({ id, of: known.get(id)?.of ?? [] }))
    .filter(({ of }) => of.some((id) => gone.has(id)))
    .map(({ id, of }) => ({ id, of, rest: of.filter((i) => !gone.has(i)) }))
}

const AT_ONCE = 100

/** Fetches what is not known of these slips, many in one request. */
export function wantSlips(ids: number[]) {
  const missing = ids.filter((id) => id > 0 && !fresh.has(id) && !asked.has(id)) // digests come with the queue
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
        for (const id of ids) if (Math.max(allStaleAt, staleAt.get(id) ?? 0) <= at) fresh.add(id)
        put(slips)
        wantSlips(ids.filter((id) => shown.has(id)))
      })
      .catch(() => {
        for (const id of ids) asked.delete(id)
      })
  }
}

/** The slip of a conversation, fetched if it is not known. */
export function useSlip(id: number | undefined): Slip | undefined {
  const subscribe = useCallback((changed: () => void) => (id === undefined ? () => {} : show(id, changed)), [id])
  return useSyncExternalStore(subscribe, () => slipOf(id))
}
