import { createContext, type ReactNode, useContext, useEffect, useEffectEvent, useMemo, useRef, useState } from 'react'
import { createPortal } from 'react-dom'

const STAYS = 6000 // ms; longer while it is pointed at or has the focus, or the window is left

type Take = (place: HTMLElement, usual: boolean) => () => void
const Take = createContext<Take>(() => () => {})
const Place = createContext<HTMLElement | undefined>(undefined)

/** Lies around all that says what was just done, and where it is said. */
export function Toasts({ children }: { children: ReactNode }) {
  const [places, setPlaces] = useState<HTMLElement[]>([]) // the usual one is the first
  const take = useMemo<Take>(
    () => (place, usual) => {
      setPlaces((all) => (usual ? [place, ...all] : [...all, place]))
      return () => setPlaces((all) => all.filter((p) => p !== place))
    },
    [],
  )
  return (
    <Take value={take}>
      <Place value={places.at(-1)}>{children}</Place>
    </Take>
  )
}

/**
 * Where a screen has what was done said; the usual one is for screens that have no place for it. It is there before
 * anything is said, so that readers of screens read out what comes into it (WAI-ARIA, live region).
 */
export function ToastPlace({ usual = false }: { usual?: boolean }) {
  const take = useContext(Take)
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => take(place.current!, usual), [take, usual])
  return (
    <div
      ref={place}
      aria-live="polite"
      className={usual ? 'shrink-0 border-sand-300 bg-sand-100 px-[22px] not-empty:border-t not-empty:py-2.5' : ''}
    />
  )
}

/** One sentence, read out once. Something wrong stays until it is closed. */
export function Toast({ wrong, onEnd, children }: { wrong?: boolean; onEnd: () => void; children: ReactNode }) {
  const place = useContext(Place)
  const toast = useRef<HTMLDivElement>(null)
  const end = useEffectEvent(onEnd)
  useEffect(() => {
    if (!toast.current || wrong) return
    return whileLeftAlone(toast.current, STAYS, () => end())
  }, [place, wrong])
  if (!place) return null
  return createPortal(
    <div
      ref={toast}
      role={wrong ? 'alert' : undefined}
      className={wrong ? 'font-semibold text-coral-600' : 'text-ink-900'}
      data-testid="notice"
    >
      {children}
    </div>,
    place,
  )
}

/** Does that after so many ms in which nothing was done with it and the window was not left. Gives how to stop it. */
function whileLeftAlone(what: HTMLElement, ms: number, then: () => void) {
  let left = ms
  let since = performance.now()
  let timer = 0
  const goOn = () => {
    clearTimeout(timer)
    since = performance.now()
    timer = window.setTimeout(then, left)
  }
  const wait = () => {
    if (timer) left -= performance.now() - since
    clearTimeout(timer)
    timer = 0
  }
  const listeners = new AbortController()
  const on = (at: EventTarget, name: string, f: () => void) =>
    at.addEventListener(name, f, { signal: listeners.signal })
  for (const name of ['pointerenter', 'focusin']) on(what, name, wait)
  for (const name of ['pointerleave', 'focusout']) on(what, name, goOn)
  on(window, 'blur', wait)
  on(window, 'focus', goOn)
  goOn()
  return () => {
    clearTimeout(timer)
    listeners.abort()
  }
}
