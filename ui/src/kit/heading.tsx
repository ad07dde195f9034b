import { type ReactNode, type RefObject, useEffect, useRef } from 'react'

// Whoever comes to a screen is put at its beginning: the heading, or the list that is gone through by keys.
let arriving = true
/** Somebody goes to another screen: what it begins with takes the focus once it is there. */
export const arrive = () => {
  arriving = true
}

/**
 * What a screen begins with takes the focus of whoever has just come, unless something in it has it already,
 * or what was opened meanwhile: that would close below the hand as the screen's answer comes.
 */
export function useArrival(begins: RefObject<HTMLElement | null>, ready = true) {
  useEffect(() => {
    if (!arriving || !ready) return
    arriving = false
    const at = document.activeElement
    if (!at || at === document.body || !at.closest('main, [data-tray], [data-lying]'))
      begins.current?.focus({ preventScroll: true })
  }, [begins, ready])
}

const sizes = {
  page: 'text-[24px] tracking-[-.025em]',
  large: 'text-[30px] tracking-[-.025em]',
  middle: 'text-[19px] leading-[1.25] tracking-[-.015em] break-words',
  small: 'text-[15px] tracking-[-.01em]',
}

/** The heading of a screen. */
export function Heading({
  size = 'page',
  className = '',
  testid,
  children,
}: {
  size?: keyof typeof sizes
  className?: string
  testid?: string
  children: ReactNode
}) {
  const ref = useRef<HTMLHeadingElement>(null)
  useArrival(ref)
  return (
    <h1 ref={ref} tabIndex={-1} data-testid={testid} className={`outline-none ${sizes[size]} ${className}`}>
      {children}
    </h1>
  )
}
