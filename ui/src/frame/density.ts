import { useSyncExternalStore } from 'react'

// How close the lines of a queue stand is kept for this browser: it goes with the size of the screen.
const STORED = 'ebbe-close'
const listeners = new Set<() => void>()
const subscribe = (l: () => void) => {
  listeners.add(l)
  return () => listeners.delete(l)
}
const stored = () => localStorage.getItem(STORED) === '1'

/** Whether slips stand close: a line each, over the whole width, without the conversation beside them. */
export const useClose = () => useSyncExternalStore(subscribe, stored)

export function setClose(close: boolean) {
  localStorage.setItem(STORED, close ? '1' : '')
  for (const l of listeners) l()
}
