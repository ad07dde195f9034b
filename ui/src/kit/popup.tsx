import { Popover as Parts } from 'radix-ui'
import type { ReactNode } from 'react'
import { cx } from './cx'
import { nonce } from './nonce'

void nonce // it makes style elements of its own

const place = 'flex w-full flex-col items-center gap-[3px] rounded-[10px] pt-1.5 pb-[7px] text-[10px] whitespace-nowrap'
const looks = {
  line: 'block min-h-6 max-w-full truncate text-[12px] opacity-85 hover:underline',
  place: `${place} text-ink-500`,
  placeOn: `${place} bg-sand-0 font-[650] text-tide-800 shadow-[inset_0_3px_0_var(--fill)]`,
  pill: 'flex items-center gap-1.5 rounded-[18px] border border-white/35 px-2.5 py-1.5 text-[12px] font-semibold whitespace-nowrap hover:bg-white/10',
}

/** A few choices below the words that open them, in the frame. */
export const Popup = ({
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
}) => (
  <Parts.Root open={open} onOpenChange={onOpenChange}>
    <Parts.Trigger title={label} className={looks[look]}>
      {trigger}
    </Parts.Trigger>
    <Parts.Portal>
      <Parts.Content
        align={align}
        sideOffset={6}
        aria-label={label}
        data-lying
        className={cx(
          'z-40 max-h-[90vh] w-64 overflow-y-auto rounded-[10px] border border-sand-300 bg-sand-0 p-2',
          'text-ink-900',
        )}
      >
        {children}
      </Parts.Content>
    </Parts.Portal>
  </Parts.Root>
)
