import { Popover as Parts } from 'radix-ui'
import { type ReactNode, type RefObject, useRef } from 'react'
import { cx } from './cx'
import { nonce } from './nonce'

void nonce // it makes style elements of its own

/** What lies below the words that opened it, until something else is pressed. They have the focus again afterwards. */
export function Lying({
  id,
  label,
  align,
  opener,
  close,
  children,
}: {
  id: string
  label: string
  align: 'start' | 'end'
  opener: RefObject<HTMLElement | null>
  close: () => void
  children: ReactNode
}) {
  const elsewhere = useRef(false)
  return (
    <Parts.Root open onOpenChange={close}>
      <Parts.Anchor virtualRef={opener as RefObject<HTMLElement>} />
      <Parts.Portal>
        <Parts.Content
          id={id}
          align={align}
          sideOffset={6}
          aria-label={label}
          data-lying
          onInteractOutside={(e) => {
            if (opener.current?.contains(e.target as Node))
              e.preventDefault() // it closes by itself
            else elsewhere.current = true
          }}
          onCloseAutoFocus={(e) => {
            e.preventDefault()
            if (!elsewhere.current) opener.current?.focus()
          }}
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
}
