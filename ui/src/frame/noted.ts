import { useEffect, useRef } from 'react'
import { note } from '../api/client'
import type { Noted } from '../api/desk'
import { now } from '../api/times'

// What was open and what was shown is noted as it happens, and sent a few at a time: nothing of it can be made up later.
const EVERY = 10_000
let pending: Noted = { readings: [], notices: [] }
let timer = 0

function flush() {
  window.clearTimeout(timer)
  timer = 0
  if (!pending.readings.length && !pending.notices.length) return
  note('/noted', pending)
  pending = { readings: [], notices: [] }
}
window.addEventListener('pagehide', flush)

const later = () => {
  timer ||= window.setTimeout(flush, EVERY)
}

/** Notes that a notification was shown. */
export function noteNotice(text: string) {
  pending.notices.push({ at: now(), text })
  later()
}

/** Notes for how long a conversation is in view, and whether its end was. What it gives stands at the end. */
export function useReadingNoted(conversation: number, message: number) {
  const end = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!message) return
    const at = now()
    let since = document.hidden ? 0 : performance.now()
    let spent = 0
    let whole = false
    const turn = () => {
      if (document.hidden && since) {
        spent += performance.now() - since
        since = 0
      } else if (!document.hidden) since ||= performance.now()
    }
    const eye = new IntersectionObserver((seen) => {
      whole ||= seen.some((s) => s.isIntersecting)
    })
    if (end.current) eye.observe(end.current)
    const done = () => {
      if (since) spent += performance.now() - since
      since = 0
      const seconds = Math.round(spent / 1000)
      spent = 0
      if (!seconds) return
      pending.readings.push({ conversation, message, at, seconds, whole })
      later()
    }
    document.addEventListener('visibilitychange', turn)
    window.addEventListener('pagehide', done, { capture: true })
    return () => {
      document.removeEventListener('visibilitychange', turn)
      window.removeEventListener('pagehide', done, { capture: true })
      eye.disconnect()
      done()
    }
  }, [conversation, message])
  return end
}
