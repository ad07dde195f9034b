import { type ReactNode, Suspense, useId, useRef } from 'react'
import { ahead } from './ahead'

const place = 'flex w-full flex-col items-center gap-[3px] rounded-[10px] pt-1.5 pb-[7px] text-[10px] whitespace-nowrap'
const looks = {
  line: 'block min-h-6 max-w-full truncate text-[12px] opacity-85 hover:underline',
  place: `${place} text-ink-500`,
  placeOn: `${place} bg-sand-0 font-[650] text-tide-800 shadow-[inset_0_3px_0_var(--fill)]`,
  pill: 'flex items-center gap-1.5 rounded-[18px] border border-white/35 px-2.5 py-1.5 text-[12px] font-semibold whitespace-nowrap hover:bg-white/10',
}
const Lying = ahead(() => import('./lying').then((m) => m.Lying))

/** A few choices below the words that open them, in the frame. */
export function Popup({
  label,
  look,
  open,
  align = 'start',
  trigger,
  onOpenChange,
  children,
}: {
  label: string
  look: keyof typeof looks
  open: boolean
  align?: 'start' | 'end'
  trigger: ReactNode
  onOpenChange: (open: boolean) => void
  children: ReactNode
}) {
  const opener = useRef<HTMLButtonElement>(null)
  const id = useId()
  return (
    <>
      <button
        ref={opener}
        type="button"
        title={label}
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-controls={open ? id : undefined}
        className={looks[look]}
        onClick={() => onOpenChange(!open)}
      >
        {trigger}
      </button>
      {open && (
        <Suspense fallback={null}>
          <Lying id={id} label={label} align={align} opener={opener} close={() => onOpenChange(false)}>
            {children}
          </Lying>
        </Suspense>
      )}
    </>
  )
}
