import { useSyncExternalStore } from 'react'

// How large the text of messages is, is kept for this browser.
const STORED = 'ebbe-letters'
export const sizes = [0.9, 1, 1.15, 1.3, 1.5, 1.8]
const usual = 1
const listeners = new Set<() => void>()
const subscribe = (l: () => void) => {
  listeners.add(l)
  return () => listeners.delete(l)
}
const stored = () => {
  const size = Number(localStorage.getItem(STORED))
  return sizes.includes(size) ? size : usual
}

/** How many times the usual size the text of messages is shown at. */
export const useLetters = () => useSyncExternalStore(subscribe, stored)

export function setLetters(size: number) {
  localStorage.setItem(STORED, String(size))
  for (const l of listeners) l()
}

/** Makes the text of messages a step larger, or smaller with -1; at the end of the steps it stays. */
export function turnLetters(by: 1 | -1) {
  const next = sizes[sizes.indexOf(stored()) + by]
  if (next) setLetters(next)
}
