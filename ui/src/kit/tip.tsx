import { Suspense, useEffect, useState } from 'react'
import { ahead } from './ahead'

const Shown = ahead(() => import('./tipshown').then((m) => m.TipShown))
const RESTS = 400 // ms for which the pointer rests on a control

const tipped = (e: Event) => (e.target instanceof Element ? e.target.closest<HTMLElement>('[data-tip]') : null)

/**
 * What a control without words is for (`data-tip`), shown to the pointer that rests on it and to the keyboard that
 * reaches it. It stands once on a page, for all of them.
 */
export function Tips() {
  const [at, setAt] = useState<HTMLElement | null>(null)
  useEffect(() => {
    let timer = 0
    let near: HTMLElement | null = null
    let pressed = false // by the pointer: it is known then what it is for
    const leave = () => {
      clearTimeout(timer)
      near = null
      setAt(null)
    }
    const listen: [string, (e: Event) => void][] = [
      [
        'pointerover',
        (e) => {
          if ((e as PointerEvent).pointerType === 'touch') return
          if (e.target instanceof Element && e.target.closest('[role=tooltip]')) return // it can be read with the pointer
          const now = tipped(e)
          if (now === near) return
          leave()
          near = now
          if (now) timer = window.setTimeout(() => now.isConnected && setAt(now), RESTS)
        },
      ],
      ['pointerdown', () => (leave(), (pressed = true))],
      ['pointerup', () => (pressed = false)],
      ['pointercancel', () => (pressed = false)],
      ['focusin', (e) => (leave(), pressed || setAt(tipped(e)))],
      ['focusout', leave],
    ]
    for (const [type, f] of listen) document.addEventListener(type, f)
    return () => {
      clearTimeout(timer)
      for (const [type, f] of listen) document.removeEventListener(type, f)
    }
  }, [])
  return (
    at && (
      <Suspense fallback={null}>
        <Shown key={at.dataset.tip} at={at} close={() => setAt(null)} />
      </Suspense>
    )
  )
}
