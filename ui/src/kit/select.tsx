import { CaretDownIcon, CheckIcon } from '@phosphor-icons/react'
import { Select as Radix } from 'radix-ui'
import { useId } from 'react'
import { cx } from './cx'
import { Around, boxLook } from './field'
import { nonce } from './nonce'

interface Props<T> {
  id?: string
  label: string
  hideLabel?: boolean
  value: T
  options: { id: T; name: string }[]
  disabled?: boolean
  small?: boolean
  className?: string // where it stands
  testid?: string
  onChange: (value: T) => void
}

/** One of several that are not shown until it is opened; a letter goes to what begins with it. */
export function Select<T>({
  id,
  label,
  hideLabel,
  value,
  options,
  disabled,
  small,
  className,
  testid,
  onChange,
}: Props<T>) {
  const own = useId()
  const its = id ?? own
  const at = options.findIndex((o) => o.id === value)
  return (
    <Around id={its} label={label} hideLabel={hideLabel} className={className}>
      <Radix.Root value={String(at)} disabled={disabled} onValueChange={(v) => onChange(options[Number(v)].id)}>
        <Radix.Trigger
          id={its}
          aria-label={hideLabel ? label : undefined}
          data-testid={testid}
          data-typing
          className={`${boxLook(small)} flex min-w-0 items-center justify-between gap-2 text-left`}
        >
          <span className="truncate">{options[at]?.name ?? ''}</span>
          <CaretDownIcon size={12} className="shrink-0 text-ink-500" aria-hidden />
        </Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            data-typing
            data-lying
            position="popper"
            sideOffset={3}
            className={cx(
              'z-50 max-h-(--radix-select-content-available-height) min-w-(--radix-select-trigger-width)',
              'overflow-hidden rounded-[9px] border border-sand-300 bg-sand-0 shadow-lying',
            )}
          >
            <Radix.Viewport nonce={nonce} className="max-h-72 p-1">
              {options.map((o, i) => (
                <Radix.Item
                  key={i}
                  value={String(i)}
                  className={cx(
                    'flex min-h-6 cursor-pointer items-center justify-between gap-3 rounded-[6px] px-2 py-1',
                    'text-[13px] text-ink-900 outline-none data-highlighted:bg-tide-100',
                    'data-highlighted:text-tide-800 forced-colors:data-highlighted:outline',
                  )}
                >
                  <Radix.ItemText>{o.name}</Radix.ItemText>
                  <Radix.ItemIndicator>
                    <CheckIcon size={12} aria-hidden />
                  </Radix.ItemIndicator>
                </Radix.Item>
              ))}
            </Radix.Viewport>
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </Around>
  )
}

/** Options whose names say all there is to them. */
export const named = <T extends string>(names: Record<T, string>) =>
  (Object.keys(names) as T[]).map((id) => ({ id, name: names[id] }))
