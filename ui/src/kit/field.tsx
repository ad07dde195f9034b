import {
  type ChangeEvent,
  type InputHTMLAttributes,
  type ReactNode,
  type Ref,
  type TextareaHTMLAttributes,
  useId,
} from 'react'
import { cx } from './cx'
import { useKeptField } from './keeping'

interface Labelled {
  label: string
  hideLabel?: boolean // it is said, and seen from what stands beside it
  wrong?: string
  small?: boolean
  className?: string // where it stands
}

export const labelLook = 'mb-1 block text-[11.5px] font-[650] text-ink-500'
const box = cx(
  'block w-full border border-sand-300 bg-sand-0 text-ink-900 placeholder:text-ink-500',
  'focus:border-fill focus:outline-1 focus:-outline-offset-1 focus:outline-fill disabled:opacity-60',
  'aria-invalid:border-coral-600',
)
export const boxLook = (small?: boolean) =>
  `${box} ${small ? 'min-h-6 rounded-[7px] px-2 py-0.5 text-[13px]' : 'rounded-[9px] px-3 py-2 text-[14px]'}`

/** What stands around something one fills in: its label above it, what is wrong below it. */
export function Around({
  id,
  label,
  hideLabel,
  wrong,
  className,
  children,
}: Labelled & { id: string; children: ReactNode }) {
  return (
    <div className={className}>
      {!hideLabel && (
        <label htmlFor={id} className={labelLook}>
          {label}
        </label>
      )}
      {children}
      <Wrong id={id + '-wrong'}>{wrong}</Wrong>
    </div>
  )
}

/** What is wrong with what was filled in, told as soon as it is there. */
export const Wrong = ({ id, children }: { id?: string; children?: ReactNode }) =>
  children ? (
    <p id={id} role="alert" className="mt-1 text-[12.5px] text-coral-600">
      {children}
    </p>
  ) : null

const described = (id: string, label: string | undefined, wrong?: string) => ({
  id,
  'aria-label': label,
  'aria-invalid': wrong ? true : undefined,
  'aria-describedby': wrong ? id + '-wrong' : undefined,
})

/** A password is kept nowhere. */
const keeps = (type = 'text') => type !== 'password'

/** A line of text with its label; what is wrong with it stands below it. */
export function Field({
  id,
  label,
  hideLabel,
  wrong,
  small,
  className,
  onChange,
  onBlur,
  ...rest
}: Labelled & Omit<InputHTMLAttributes<HTMLInputElement>, 'className'> & { ref?: Ref<HTMLInputElement> }) {
  const own = useId()
  const its = id ?? own
  const { begun, typed, saved } = useKeptField(id ?? label, String(rest.value ?? rest.defaultValue ?? ''), (value) => {
    if (keeps(rest.type)) onChange?.({ target: { value } } as ChangeEvent<HTMLInputElement>)
  })
  return (
    <Around id={its} label={label} hideLabel={hideLabel} wrong={wrong} className={className}>
      <input
        className={boxLook(small)}
        {...described(its, hideLabel ? label : undefined, wrong)}
        {...rest}
        {...(rest.defaultValue === undefined ? {} : { defaultValue: begun ?? rest.defaultValue })}
        onBlur={(e) => {
          if (rest.defaultValue !== undefined) saved() // such a field is saved as one leaves it
          onBlur?.(e)
        }}
        onChange={(e) => {
          if (keeps(rest.type)) typed(e.target.value)
          onChange?.(e)
        }}
      />
    </Around>
  )
}

/** Several lines of text with their label. */
export function TextArea({
  id,
  label,
  hideLabel,
  wrong,
  small,
  serif,
  grows,
  tall,
  className,
  onChange,
  onBlur,
  ...rest
}: Labelled &
  Omit<TextareaHTMLAttributes<HTMLTextAreaElement>, 'className'> & {
    serif?: boolean // set as a message is
    grows?: boolean // can be drawn larger
    tall?: boolean // takes the room there is
    ref?: Ref<HTMLTextAreaElement>
  }) {
  const own = useId()
  const its = id ?? own
  const { begun, typed, saved } = useKeptField(id ?? label, String(rest.value ?? rest.defaultValue ?? ''), (value) =>
    onChange?.({ target: { value } } as ChangeEvent<HTMLTextAreaElement>),
  )
  return (
    <Around id={its} label={label} hideLabel={hideLabel} wrong={wrong} className={className}>
      <textarea
        className={`${boxLook(small)} ${grows ? 'resize-y' : 'resize-none'} ${tall ? 'flex-1' : ''} ${serif ? 'font-serif text-[15px] leading-[1.55]' : ''}`}
        {...described(its, hideLabel ? label : undefined, wrong)}
        {...rest}
        {...(rest.defaultValue === undefined ? {} : { defaultValue: begun ?? rest.defaultValue })}
        onBlur={(e) => {
          if (rest.defaultValue !== undefined) saved() // such a field is saved as one leaves it
          onBlur?.(e)
        }}
        onChange={(e) => {
          typed(e.target.value)
          onChange?.(e)
        }}
      />
    </Around>
  )
}
