import { useEffect, useMemo, useState } from 'react'
import { now } from '../../api/times'
import { sentences } from './sentences'

const TWO_MINUTES = 120_000
const begun = new Map<number, number>() // when an answer was begun here, by conversation

/** What is left of a while, in minutes and seconds. */
export const countdown = (ms: number) => {
  const s = Math.ceil(ms / 1000)
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
}

/** The two-minute clock of a conversation: it runs from when its answer was begun. */
export function useTwoMinutes(id?: number) {
  const [, turn] = useState(0)
  const since = id === undefined ? undefined : begun.get(id)
  useEffect(() => {
    if (since === undefined) return
    const t = setInterval(() => turn((n) => n + 1), 500)
    return () => clearInterval(t)
  }, [since])
  const left = since === undefined ? TWO_MINUTES : since + TWO_MINUTES - now()
  const text = since === undefined ? sentences.twoMin : left > 0 ? countdown(left) : sentences.over
  const clock = useMemo(
    () => (
      <span className="text-[12px] font-normal tabular-nums max-[1180px]:hidden" data-testid="two-minutes">
        {text}
      </span>
    ),
    [text],
  )
  return {
    running: since !== undefined,
    over: left <= 0,
    /** begins at the instant given, if that is not long ago, or now */
    start: (at = 0) => {
      if (id !== undefined && !begun.has(id)) {
        begun.set(id, at > now() - 5 * TWO_MINUTES ? at : now())
        turn((n) => n + 1)
      }
    },
    stop: () => {
      if (id !== undefined) begun.delete(id)
    },
    clock,
    left,
  }
}
