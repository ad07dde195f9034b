import { type HTMLAttributes, type ReactNode, type Ref, useEffect, useImperativeHandle, useRef } from 'react'
import { useCover } from '../frame/commands'
import { cx } from './cx'

interface Props extends Omit<HTMLAttributes<HTMLElement>, 'className' | 'style' | 'onSubmit'> {
  label: string
  testid?: string
  layout?: keyof typeof layouts
  busy?: boolean // what it shows is on its way
  over?: boolean // a file is held over it
  page?: boolean // it fills a page instead, and covers nothing
  ref?: Ref<HTMLElement>
  onClose: () => void
  onSubmit?: () => void
}

/** How the parts of a tray stand. */
const layouts = {
  plain: '',
  row: 'flex flex-wrap items-start gap-x-5 gap-y-3',
  line: 'flex flex-wrap items-end gap-x-4 gap-y-2',
  middle: 'flex flex-wrap items-center gap-x-6 gap-y-3',
  halves: 'grid grid-cols-[minmax(260px,1fr)_minmax(320px,1.25fr)] gap-x-6 gap-y-1 max-[900px]:grid-cols-1',
  aside: 'grid grid-cols-[280px_minmax(0,1fr)] gap-5 max-[900px]:grid-cols-1',
  thirds: 'grid grid-cols-[290px_minmax(0,1fr)_184px] gap-5 max-[900px]:grid-cols-1 max-[900px]:gap-2',
  three:
    'grid grid-cols-[minmax(220px,1fr)_minmax(260px,1.1fr)_minmax(200px,.8fr)] gap-x-6 gap-y-2 max-[900px]:grid-cols-1',
  table: 'grid grid-cols-[auto_minmax(0,1fr)] items-start gap-x-4 gap-y-2 max-[700px]:grid-cols-1',
  writer:
    'grid grid-cols-[minmax(0,1fr)_248px] gap-5 max-[900px]:grid-cols-1 max-[700px]:max-h-[46vh] max-[700px]:gap-3',
}
/** How high a tray is while what it shows is on its way, so that it does not jump. */
const waiting: Partial<Record<keyof typeof layouts, string>> = {
  halves: 'h-[150px]',
  three: 'h-[180px]',
  writer: 'h-[300px]',
}

const standing = 'ebb max-h-[64vh] overflow-y-auto border-b border-sand-200 bg-sand-0 px-[18px] pt-3.5 pb-3'
const filling = 'flex h-full min-h-0 gap-6 max-[900px]:flex-col max-[900px]:overflow-y-auto'

/**
 * What opens above a dock. The focus goes in and comes back to where it was; Escape closes it, also while one types; what
 * moves about, and what is pressed on its controls, is its own. It is a form if there is something to submit.
 */
export function Tray({
  label,
  testid,
  layout = 'plain',
  busy,
  over,
  page,
  ref,
  onClose,
  onSubmit,
  onKeyDown,
  ...rest
}: Props) {
  const tray = useRef<HTMLElement>(null)
  useImperativeHandle(ref, () => tray.current!)
  const cover = useCover()
  useEffect(() => (tray.current && !page ? cover?.(tray.current) : undefined), [cover, page])
  useReturn(tray, page)
  const props: HTMLAttributes<HTMLElement> & { 'data-testid'?: string; 'data-tray': boolean } = {
    ...rest,
    tabIndex: -1,
    'aria-label': label,
    'aria-busy': busy,
    'data-testid': testid,
    'data-tray': true,
    className: cx(
      page ? filling : `${standing} ${layouts[layout]} ${busy ? waiting[layout] : ''}`,
      over ? 'outline-2 -outline-offset-4 outline-tide-400' : 'outline-none',
    ),
    onKeyDown: (e) => {
      onKeyDown?.(e)
      if (e.isPropagationStopped() || e.defaultPrevented || e.nativeEvent.isComposing || e.key !== 'Escape') return
      e.preventDefault()
      e.stopPropagation()
      onClose()
    },
  }
  if (!onSubmit) return <div ref={tray as Ref<HTMLDivElement>} role="group" {...props} />
  return (
    <form
      ref={tray as Ref<HTMLFormElement>}
      {...props}
      onSubmit={(e) => {
        e.preventDefault()
        e.stopPropagation()
        onSubmit()
      }}
    />
  )
}

/** What lies above whatever dock there is, at the bottom of the screen. */
export const AboveDock = ({ children }: { children: ReactNode }) => (
  <div className="absolute inset-x-0 bottom-0 z-20 border-t border-sand-300 bg-sand-0 shadow-rising">{children}</div>
)

/** Puts the focus into what has opened, and back where it was once that has closed. */
function useReturn(opened: React.RefObject<HTMLElement | null>, never?: boolean) {
  useEffect(() => {
    if (never) return
    const here = opened.current
    const before = document.activeElement instanceof HTMLElement ? document.activeElement : null
    const from = here?.contains(before) ? known : before // what is in it has taken the focus as it appeared
    if (here && !here.contains(before)) here.focus({ preventScroll: true })
    return () => {
      const lost = document.activeElement === document.body || here?.contains(document.activeElement)
      if (lost && from?.isConnected) from.focus({ preventScroll: true })
    }
  }, [opened, never])
}

/** Where the focus is or was last, outside of any tray; null if it was nowhere. */
let known: HTMLElement | null = null
const inTray = (e: EventTarget | null) => e instanceof Element && e.closest('[data-tray], [data-lying]')
document.addEventListener('focusin', (e) => {
  if (e.target instanceof HTMLElement && !inTray(e.target)) known = e.target
})
document.addEventListener('focusout', (e) => {
  if (!e.relatedTarget && !inTray(e.target)) known = null
})
