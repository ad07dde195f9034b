import { CheckIcon } from '@phosphor-icons/react'
import { Checkbox as Box } from 'radix-ui'
import type { ReactNode } from 'react'
import { cx } from './cx'

interface Props {
  id?: string
  testid?: string
  label?: string // where nothing is written beside it
  checked: boolean
  disabled?: boolean
  top?: boolean // stands at the first line of words that take several
  wide?: boolean // what stands beside it is a row of its own
  className?: string // where it stands among others
  onChange: (on: boolean) => void
  children?: ReactNode
}

/** Something that holds or does not, with the words for it. */
export const Checkbox = ({
  id,
  testid,
  label,
  checked,
  disabled,
  top,
  wide,
  className = '',
  onChange,
  children,
}: Props) => (
  <label
    className={cx(
      'flex min-h-6 gap-2 text-[12.5px]',
      top ? 'items-start' : 'items-center',
      wide && 'w-full cursor-pointer',
      disabled && 'text-ink-500',
      className,
    )}
  >
    <Box.Root
      id={id}
      data-testid={testid}
      aria-label={label}
      checked={checked}
      disabled={disabled}
      onCheckedChange={(on) => onChange(on === true)}
      className={cx(
        'grid size-[15px] shrink-0 place-items-center rounded-[4px] border border-ink-400 bg-sand-0',
        'text-white disabled:opacity-50 data-[state=checked]:border-fill data-[state=checked]:bg-fill',
        top && 'mt-[3px]',
      )}
    >
      <Box.Indicator>
        <CheckIcon size={11} weight="bold" aria-hidden />
      </Box.Indicator>
    </Box.Root>
    {children}
  </label>
)
