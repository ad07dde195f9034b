import type { AnchorHTMLAttributes, ButtonHTMLAttributes, ReactNode, Ref } from 'react'
import { cx } from './cx'

export type Press = ButtonHTMLAttributes<HTMLButtonElement> & { ref?: Ref<HTMLButtonElement> }

const sizes = {
  normal: 'rounded-[9px] px-3.5 py-2 text-[13px] font-semibold',
  middle: 'rounded-[9px] px-3 py-1.5 text-[13px] font-semibold',
  line: 'min-h-6 rounded-[7px] px-2 py-0.5 text-[12px]',
  small: 'min-h-6 rounded-[7px] px-2 py-0.5 text-[12px] font-[550]',
}
const grounds = {
  fill: 'bg-fill text-white hover:brightness-110',
  quiet: 'bg-sand-100 text-ink-900 hover:bg-sand-200',
  'late-quiet': 'bg-sand-100 text-coral-600 hover:bg-sand-200',
  late: 'bg-coral-600 text-white hover:brightness-110 dark:text-sand-0',
  line: 'border border-sand-300 bg-sand-0 text-ink-700 hover:bg-tide-100',
  found: 'border border-tide-400 bg-tide-100 text-tide-800',
  bare: 'text-accent hover:bg-sand-100',
}

/** Does something. What it is the one thing to do here is filled; className says only where it stands. */
export const Button = ({
  quiet,
  ground = quiet ? 'quiet' : 'fill',
  size = 'normal',
  spread,
  className = '',
  ...rest
}: Press & {
  quiet?: boolean
  ground?: keyof typeof grounds
  size?: keyof typeof sizes
  spread?: boolean // as wide as there is room, its parts at both ends
}) => (
  <button
    type="button"
    className={cx(
      'inline-flex items-center gap-1.5 whitespace-nowrap disabled:opacity-50',
      spread ? 'w-full justify-between' : 'justify-center',
      sizes[size],
      grounds[ground],
      className,
    )}
    {...rest}
  />
)

/** The same, where it leads to a page or a file. */
export const LinkButton = ({
  quiet,
  ground = quiet ? 'quiet' : 'fill',
  size = 'normal',
  className = '',
  children,
  ...rest
}: AnchorHTMLAttributes<HTMLAnchorElement> & {
  quiet?: boolean
  ground?: keyof typeof grounds
  size?: keyof typeof sizes
}) => (
  <a
    className={`inline-flex items-center justify-center gap-1.5 ${sizes[size]} ${grounds[ground]} ${className}`}
    {...rest}
  >
    {children}
  </a>
)

const inks = { accent: 'font-semibold text-accent', faint: 'text-ink-500', late: 'font-semibold text-coral-600' }

/** Words that do something, within a sentence or beside other words. */
export const TextButton = ({
  tone = 'accent',
  small,
  className = '',
  ...rest
}: Press & { tone?: keyof typeof inks; small?: boolean }) => (
  <button
    type="button"
    className={`target text-left underline-offset-2 hover:underline disabled:opacity-50 ${inks[tone]} ${small ? 'text-[12px]' : ''} ${className}`}
    {...rest}
  />
)

/** A picture that does something; its name is said, and shown to whoever waits on it (`Tips`). */
export const IconButton = ({
  label,
  tip,
  late,
  className = '',
  children,
  ...rest
}: Press & { label: string; tip?: string; late?: boolean; children: ReactNode }) => (
  <button
    type="button"
    aria-label={label}
    data-tip={tip ?? label}
    className={cx(
      'inline-grid size-6 shrink-0 place-items-center rounded-[5px] text-ink-500 hover:bg-sand-200',
      'disabled:opacity-40',
      late ? 'hover:text-coral-600' : 'hover:text-ink-900',
      className,
    )}
    {...rest}
  >
    {children}
  </button>
)

const cards = {
  plain: 'border border-sand-300 bg-sand-0 hover:border-fill',
  open: 'border border-dashed border-sand-300 hover:border-fill',
  tide: 'border border-dashed border-tide-400 bg-tide-50 hover:bg-tide-100',
  sand: 'bg-sand-100 hover:bg-tide-100',
  bare: 'hover:bg-sand-100',
  late: 'bg-coral-100 hover:bg-tide-100',
  on: 'bg-tide-100',
  over: 'bg-tide-200',
  picked: 'bg-fill text-white',
}

/** A piece of a page that can be pressed as a whole. */
export const CardButton = ({
  look = 'plain',
  small,
  cell,
  className = '',
  ...rest
}: Press & {
  look?: keyof typeof cards
  small?: boolean
  cell?: boolean /* of a table, its parts in the middle */
}) => (
  <button
    type="button"
    className={cx(
      'min-h-6 w-full disabled:opacity-50',
      cell
        ? 'flex h-[25px] items-center justify-center gap-0.5 rounded-[7px]'
        : `block text-left ${small ? 'rounded-[7px] px-2 py-1.5' : 'rounded-[10px] px-3.5 py-2.5'}`,
      cards[look],
      className,
    )}
    {...rest}
  />
)

/** Opens and closes what follows it. */
export const Opener = ({ open, className = '', ...rest }: Press & { open: boolean }) => (
  <button
    type="button"
    aria-expanded={open}
    className={`inline-flex min-h-6 min-w-0 items-center gap-1 text-left hover:text-ink-900 ${className}`}
    {...rest}
  />
)

export const barLook =
  'flex min-h-6 items-center gap-1 rounded-[7px] px-1.5 py-1 text-[12px] font-semibold text-ink-700 hover:bg-sand-200'

/** Opens something from the line above a list. */
export const BarButton = ({ on, accent, className = '', ...rest }: Press & { on: boolean; accent?: boolean }) => (
  <button
    type="button"
    aria-pressed={on}
    className={`${barLook} ${accent ? 'text-accent!' : ''} ${className}`}
    {...rest}
  />
)
