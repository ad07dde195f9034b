import { useEffect, useRef, useState } from 'react'

/** How a finger moved something aside: to which side, and how far. */
export type Swipe = 'left' | 'leftFar' | 'right' | 'rightFar'

const NEAR = 72 // px moved aside until it counts
const FAR = 168 // and until it is the far one
const MOST = 240
const STILL = 10 // px within which a finger rests
const HOLD = 450 // ms it rests until that is a long press

/** What letting go there means; undefined: nothing. */
export const swipeAt = (by: number): Swipe | undefined => {
  const way = by < 0 ? 'left' : 'right'
  const far = Math.abs(by)
  return far >= FAR ? `${way}Far` : far >= NEAR ? way : undefined
}

/** A finger that moves something aside, or rests on it; up and down still scrolls. */
export function useTouch({ onSwipe, onHold }: { onSwipe?: (way: Swipe) => void; onHold?: () => void }) {
  const [by, setBy] = useState(0)
  const from = useRef<{ x: number; y: number; aside: boolean } | null>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const held = useRef(false)
  const finger = useRef(false)
  useEffect(() => () => clearTimeout(timer.current), [])
  const stop = () => {
    clearTimeout(timer.current)
    from.current = null
    setBy(0)
  }
  return {
    by,
    /** Whether it was a finger that clicked. */
    byFinger: () => finger.current,
    handlers: {
      onPointerDown: (e: React.PointerEvent) => {
        finger.current = e.pointerType === 'touch'
        held.current = false
        if (!finger.current) return
        from.current = { x: e.clientX, y: e.clientY, aside: false }
        if (onHold)
          timer.current = setTimeout(() => {
            held.current = true
            stop()
            onHold()
          }, HOLD)
      },
      onPointerMove: (e: React.PointerEvent) => {
        const f = from.current
        if (!f) return
        const dx = e.clientX - f.x
        const dy = e.clientY - f.y
        if (Math.max(Math.abs(dx), Math.abs(dy)) > STILL) clearTimeout(timer.current)
        if (!f.aside && Math.abs(dy) > STILL && Math.abs(dy) > Math.abs(dx)) return stop()
        if (!onSwipe) return
        if (!f.aside && Math.abs(dx) > STILL) {
          f.aside = true
          e.currentTarget.setPointerCapture(e.pointerId)
        }
        if (f.aside) setBy(Math.max(-MOST, Math.min(MOST, dx)))
      },
      onPointerUp: () => {
        const way = from.current?.aside ? swipeAt(by) : undefined
        stop()
        if (way) onSwipe?.(way)
      },
      onPointerCancel: stop,
      onContextMenu: (e: React.MouseEvent) => {
        if (finger.current) e.preventDefault() // a long press has a meaning of its own
      },
      onClickCapture: (e: React.MouseEvent) => {
        if (held.current) e.stopPropagation()
        held.current = false
      },
    },
  }
}
