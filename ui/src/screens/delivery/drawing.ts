import { useEffect, useRef, useState } from 'react'
import type { Day, Span } from '../../api/gen/delivery'

const STEP = 15 // minutes
export const DAY = 24 * 60

/** Where a minute of the day lies on its line, in percent: the hours from 6 to 22 have most of it. */
const scale: [number, number][] = [
  [0, 0],
  [360, 6],
  [1320, 94],
  [DAY, 100],
]
export function place(minute: number) {
  const i = Math.max(
    1,
    scale.findIndex(([at]) => minute <= at),
  )
  const [[a, x], [b, y]] = [scale[i - 1], scale[i]]
  return x + ((minute - a) / (b - a)) * (y - x)
}

/** The quarter of an hour at that percent of the line. */
export function minuteAt(percent: number) {
  const found = scale.findIndex(([, x]) => percent <= x)
  const i = found < 0 ? scale.length - 1 : Math.max(1, found)
  const [[a, x], [b, y]] = [scale[i - 1], scale[i]]
  const minute = a + ((percent - x) / (y - x)) * (b - a)
  return Math.max(0, Math.min(DAY, Math.round(minute / STEP) * STEP))
}

/** What dragging draws. */
export type Tool = 'open' | 'quiet' | 'focus'
/** A piece of a day: a span of some kind, or a round. */
export interface PieceAt {
  kind: Tool | 'round'
  i: number
}
/** Which part of a piece is moved. */
export type Grip = 'whole' | 'from' | 'to'

/** A day with one piece moved by that many minutes; the same day where the piece would leave it or be nothing. */
export function moved(day: Day, { kind, i }: PieceAt, by: number, grip: Grip = 'whole'): Day {
  if (kind === 'round') {
    const to = day.rounds[i] + by
    if (to < 0 || to >= DAY || day.rounds.some((m, n) => n !== i && m === to)) return day
    return { ...day, rounds: day.rounds.map((m, n) => (n === i ? to : m)) }
  }
  const s: Span = day[kind][i]
  const from = grip === 'to' ? s.from : s.from + by
  const to = grip === 'from' ? s.to : s.to + by
  if (from < 0 || to > DAY || from >= to) return day
  return { ...day, [kind]: day[kind].map((o, n) => (n === i ? { ...o, from, to } : o)) }
}

/** A day without that piece. */
export const without = (day: Day, { kind, i }: PieceAt): Day =>
  kind === 'round'
    ? { ...day, rounds: day.rounds.filter((_, n) => n !== i) }
    : { ...day, [kind]: day[kind].filter((_, n) => n !== i) }

/** A day with a span of that kind more; a block has a name. */
export const drawn = (day: Day, tool: Tool, span: Span, block: string): Day =>
  tool === 'focus'
    ? { ...day, focus: [...day.focus, { ...span, name: block }] }
    : { ...day, [tool]: [...day[tool], span] }

/** A day with a round more, if there is none at that minute. */
export const withRound = (day: Day, minute: number): Day =>
  minute < DAY && !day.rounds.includes(minute) ? { ...day, rounds: [...day.rounds, minute].sort((a, b) => a - b) } : day

/** By how much a key moves a piece, and whether it takes it away; such a key does nothing else. */
export function keyed(e: React.KeyboardEvent) {
  const by = e.key === 'ArrowRight' ? STEP : e.key === 'ArrowLeft' ? -STEP : 0
  const gone = e.key === 'Delete' || e.key === 'Backspace'
  if (by || gone) {
    e.preventDefault()
    e.stopPropagation()
  }
  return { by, gone }
}

const HOLD = 350 // ms a finger rests until it draws, or picks a piece up; before that it scrolls
const SURE = 5 // px after which a press is meant as dragging
const EDGE = 7 // px at the end of a piece by which that end is moved

interface Hand {
  x: number
  minute: number
  piece?: PieceAt
  grip: Grip
  ready: boolean // a mouse at once, a finger once it has rested
  dragged: boolean
}

/** Drawing on the line of a day, and moving what lies on it: by mouse at once, by finger after a long press. */
export function useDrawing(
  day: Day,
  done: {
    draw: (s: Span) => void
    round: (minute: number) => void
    change: (d: Day) => void
    pick: (p: PieceAt | null) => void
  },
) {
  const hand = useRef<Hand | null>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const [span, setSpan] = useState<Span | null>(null) // what is being drawn
  const [shown, setShown] = useState<Day | null>(null) // the day while a piece of it is moved
  const [lifted, setLifted] = useState(false)
  useEffect(() => () => clearTimeout(timer.current), [])
  const at = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    return minuteAt(((e.clientX - box.left) / box.width) * 100)
  }
  const stop = () => {
    clearTimeout(timer.current)
    hand.current = null
    setSpan(null)
    setShown(null)
    setLifted(false)
  }
  const handlers = {
    onPointerDown: (e: React.PointerEvent) => {
      if (e.button !== 0) return
      const on = (e.target as HTMLElement).closest<HTMLElement>('[data-piece]')
      const box = on?.getBoundingClientRect()
      const [kind, i] = on?.dataset.piece?.split(' ') ?? []
      const piece = on ? { kind: kind as PieceAt['kind'], i: Number(i) } : undefined
      const grip =
        !box || kind === 'round' || box.width < 4 * EDGE
          ? 'whole'
          : e.clientX - box.left < EDGE
            ? 'from'
            : box.right - e.clientX < EDGE
              ? 'to'
              : 'whole'
      const finger = e.pointerType === 'touch'
      hand.current = { x: e.clientX, minute: at(e), piece, grip, ready: !finger, dragged: false }
      if (!piece) done.pick(null)
      if (finger)
        timer.current = setTimeout(() => {
          if (!hand.current) return
          hand.current.ready = true
          setLifted(true)
          if (piece) done.pick(piece)
        }, HOLD)
      if (!piece) e.currentTarget.setPointerCapture(e.pointerId)
    },
    onPointerMove: (e: React.PointerEvent) => {
      const h = hand.current
      if (!h) return
      if (Math.abs(e.clientX - h.x) < SURE && !h.dragged) return
      if (!h.ready) return stop() // a finger that does not rest scrolls
      if (!h.dragged) e.currentTarget.setPointerCapture(e.pointerId)
      h.dragged = true
      const m = at(e)
      if (h.piece) setShown(moved(day, h.piece, m - h.minute, h.grip))
      else setSpan({ from: Math.min(m, h.minute), to: Math.max(m, h.minute) })
    },
    onPointerUp: () => {
      const h = hand.current
      if (!h) return
      if (h.piece) {
        if (shown && shown !== day) done.change(shown)
      } else if (span && span.from < span.to) done.draw(span)
      else if (!h.dragged) done.round(h.minute)
      stop()
    },
    onPointerCancel: stop,
    onContextMenu: (e: React.MouseEvent) => {
      if (hand.current) e.preventDefault()
    },
  }
  return { handlers, span, day: shown ?? day, lifted }
}
