import { useEffect, useRef } from 'react'
import { useLocation, useNavigationType } from 'react-router'
import { within } from '../api/base'

/** What the address says under this name; empty where it says nothing. */
export const fromAddress = (name: string) => new URLSearchParams(window.location.search).get(name) ?? ''

/** The address of what is shown, as it is now. */
export function here() {
  flush()
  return within(window.location.pathname) + window.location.search
}

/** Whether there is a step of Ebbe's own before this one, to which Back leads. */
export const cameFromEbbe = () => ((window.history.state as { idx?: number } | null)?.idx ?? 0) > 0

// Changing the address takes a browser some milliseconds, and it refuses more than some hundred changes in a row: it is
// done once nothing has changed for a moment, and at the latest when this step is left for another.
const REST = 150 // ms
let later: ReturnType<typeof setTimeout> | undefined
let waits: (() => void) | undefined
/** Writes at once what waits to be written into the address: the page is about to be left. */
export function flush() {
  clearTimeout(later)
  waits?.()
  waits = undefined
}
window.addEventListener('pagehide', flush)
const push = window.history.pushState.bind(window.history)
window.history.pushState = (...to) => {
  flush()
  push(...to)
}

// What waits to be written into one step, by whoever shows it.
let pending: { step: string; shown: Record<string, string> } = { step: '', shown: {} }

/** Writes into the address of this step, unless one has gone on meanwhile. */
function write(step: string, more: Record<string, string>) {
  clearTimeout(later)
  later = setTimeout(flush, REST)
  pending = { step, shown: { ...(pending.step === step && pending.shown), ...more } }
  const { shown } = pending
  waits = () => {
    pending = { step: '', shown: {} }
    const state = window.history.state as { key?: string } | null
    if ((state?.key ?? 'default') !== step) return
    const to = new URL(window.location.href)
    for (const [name, value] of Object.entries(shown))
      if (value) to.searchParams.set(name, value)
      else to.searchParams.delete(name)
    if (to.href !== window.location.href) window.history.replaceState(state, '', to)
  }
}

/**
 * Has the address say what is shown, so that a reload finds it again, and whoever comes Back to it.
 * It makes no step of its own and draws nothing anew; back is told what the address says when one has come Back.
 */
export function useInAddress(shown: Record<string, string>, back: (was: (name: string) => string) => void) {
  const { key } = useLocation()
  const type = useNavigationType()
  const step = useRef(key)
  const text = JSON.stringify(shown)
  const told = useRef(back)
  useEffect(() => {
    told.current = back
  })
  useEffect(() => {
    const moved = step.current !== key
    step.current = key
    if (moved && type === 'POP') told.current(fromAddress)
    else write(key, JSON.parse(text) as Record<string, string>)
  }, [text, key, type])
}
