import { CaretDownIcon, CaretRightIcon } from '@phosphor-icons/react'
import { Collapsible as Parts } from 'radix-ui'
import type { ReactNode } from 'react'
import { cx } from './cx'

/** Something that is folded away below its head until it is asked for. */
export const Collapsible = ({
  head,
  open,
  onOpenChange,
  className,
  headClass = '',
  children,
}: {
  head: ReactNode
  open: boolean
  onOpenChange: (open: boolean) => void
  className?: string
  headClass?: string
  children: ReactNode
}) => (
  <Parts.Root open={open} onOpenChange={onOpenChange} className={className}>
    <Parts.Trigger
      className={cx('flex min-h-6 w-full min-w-0 items-baseline gap-1.5 text-left hover:text-ink-900', headClass)}
    >
      {open ? (
        <CaretDownIcon size={11} weight="bold" className="shrink-0 self-center" aria-hidden />
      ) : (
        <CaretRightIcon size={11} weight="bold" className="shrink-0 self-center" aria-hidden />
      )}
      {head}
    </Parts.Trigger>
    <Parts.Content>{children}</Parts.Content>
  </Parts.Root>
)
