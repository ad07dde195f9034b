import { Toast as Parts } from 'radix-ui'
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { createPortal } from 'react-dom'
import { cx } from './cx'

const STAYS = 6000 // ms; longer while it is pointed at or has the focus, or the window is left

type Take = (place: HTMLElement, usual: boolean) => () => void
const Places = createContext<Take>(() => () => {})

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
  const place = places.at(-1)
  return (
    <Parts.Provider label="What was done">
      <Places.Provider value={take}>{children}</Places.Provider>
      {place && createPortal(<Parts.Viewport hotkey={[]} label="What was done" className="outline-none" />, place)}
    </Parts.Provider>
  )
}

/** Where a screen has what was done said; the usual one is for screens that have no place for it. */
export function ToastPlace({ usual = false }: { usual?: boolean }) {
  const take = useContext(Places)
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => take(place.current!, usual), [take, usual])
  return (
    <div
      ref={place}
      className={usual ? 'hidden shrink-0 border-t border-sand-300 bg-sand-100 px-[22px] py-2.5 has-[li]:block' : ''}
    />
  )
}

/** One sentence, read out once. Something wrong stays until it is closed. */
export const Toast = ({ wrong, onEnd, children }: { wrong?: boolean; onEnd: () => void; children: ReactNode }) => (
  <Parts.Root
    open
    type={wrong ? 'foreground' : 'background'}
    duration={wrong ? Infinity : STAYS}
    onOpenChange={(open) => {
      if (!open && !wrong) onEnd()
    }}
    className={cx('ebb', wrong ? 'font-semibold text-coral-600' : 'text-ink-900')}
    data-testid="notice"
  >
    {children}
  </Parts.Root>
)
