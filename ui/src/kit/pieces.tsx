import type { ReactNode } from 'react'
import type { Press } from './button'
import { cx } from './cx'
import { Key } from './kit'

/** A large key of a bar, with the key that presses it. */
export function KeyButton({
  keyed,
  icon,
  on,
  room,
  className = '',
  children,
  ...rest
}: Press & {
  keyed?: string
  icon?: ReactNode // stands above its word on a narrow screen
  on?: boolean
  room?: 'wide' | 'widest' // how wide the screen must be; its key and the palette stay
}) {
  const hidden = room === 'wide' ? 'max-[1180px]:hidden' : room === 'widest' ? 'max-[1340px]:hidden' : ''
  const look = on ? 'border-frame bg-fill text-white' : 'border-sand-300 bg-sand-0 text-ink-900 hover:bg-sand-50'
  const box = 'flex shrink-0 items-center gap-[9px] rounded-[9px] border border-b-[3px] py-2 pr-[13px] pl-[9px]'
  const words = 'text-[13.5px] font-semibold whitespace-nowrap disabled:opacity-45'
  const middle = 'max-[1180px]:gap-1.5 max-[1180px]:px-2 max-[1180px]:text-[13px]'
  const small = cx(
    'max-[700px]:min-w-0 max-[700px]:flex-auto max-[700px]:flex-col max-[700px]:justify-center max-[700px]:gap-0.5',
    'max-[700px]:border-0 max-[700px]:px-0.5 max-[700px]:py-1 max-[700px]:text-[10px] max-[700px]:font-medium',
    !on && 'max-[700px]:bg-transparent',
  )
  return (
    <button
      type="button"
      aria-pressed={on}
      aria-keyshortcuts={keyed || undefined}
      className={[box, words, middle, small, hidden, look, className].join(' ')}
      {...rest}
    >
      {keyed && (
        <span className="max-[700px]:hidden">
          <Key light={on}>{keyed}</Key>
        </span>
      )}
      {icon && (
        <span className="min-[701px]:hidden" aria-hidden>
          {icon}
        </span>
      )}
      <span className="max-w-full truncate">{children}</span>
    </button>
  )
}

const pills = {
  frame: 'rounded-[18px] border border-white/35 px-2.5 py-1.5 hover:bg-white/10',
  line: 'col-span-full py-1 text-center hover:bg-white/10',
}

/** A state in a few words that can be pressed: in the frame, or as a line below it. */
export const Pill = ({ look, className = '', ...rest }: Press & { look: keyof typeof pills }) => (
  <button
    type="button"
    className={`min-h-6 text-[12px] font-semibold whitespace-nowrap ${pills[look]} ${className}`}
    {...rest}
  />
)

/** The small square before something that can be finished, or opened again. */
export const Tick = ({ label, finished, children, ...rest }: Press & { label: string; finished?: boolean }) => (
  <button
    type="button"
    aria-label={label}
    className="group -m-[3px] mt-[-2px] grid size-6 shrink-0 place-items-center rounded-[6px]"
    {...rest}
  >
    <span
      className={cx(
        'grid size-[18px] place-items-center rounded-[6px]',
        finished
          ? 'bg-kelp-100 text-kelp-600'
          : 'border-[1.5px] border-ink-400 bg-sand-0 group-hover:border-kelp-600 group-hover:bg-kelp-100',
      )}
    >
      {children}
    </span>
  </button>
)

/** A line of a list that opens something; the one that is open is marked at its edge. */
export const LineButton = ({
  on,
  row,
  className = '',
  ...rest
}: Press & { on?: boolean; row?: boolean /* its parts side by side */ }) => (
  <button
    type="button"
    aria-current={on || undefined}
    className={cx(
      row ? 'flex' : 'block',
      'min-h-6 w-full text-left forced-colors:aria-[current=true]:outline',
      on ? 'bg-sand-0 shadow-[inset_4px_0_0_var(--fill)]' : 'hover:bg-sand-100',
      className,
    )}
    {...rest}
  />
)

const event = 'overflow-hidden rounded-[6px] px-1.5 py-px text-left text-[11.5px] leading-[1.25]'
const side = 'flex flex-col items-stretch border-l-[3px]'
const spans = 'px-1.5 py-[3px] text-[11px] font-semibold inset-y-0 overflow-visible'
const blocks = {
  event: `${event} ${side} border-tide-400 bg-tide-100 text-tide-800`,
  asked: `${event} ${side} border-tide-400 bg-tide-50 text-tide-800 outline-1 -outline-offset-1 outline-tide-400 outline-dashed`,
  chosen: `${event} ${side} border-frame bg-fill text-white`,
  day: `${event} block w-full truncate bg-tide-100 font-[550] text-tide-800`,
  'day-chosen': `${event} block w-full truncate bg-fill font-[550] text-white`,
  round:
    'top-[7px] z-10 -ml-4 grid size-8 place-items-center rounded-[50%_50%_50%_3px] bg-fill text-[11px] font-[650] text-white',
  open: `${spans} open-hours border-x border-tide-200 text-ink-500`,
  quiet: `${spans} quiet-hours text-ink-700`,
  focus: `${spans} block-stripes text-plum-600`,
}

/** A piece of a time scale; style says where it lies. */
export const TimeBlock = ({
  look,
  marked,
  off,
  className = '',
  style,
  ...rest
}: Press & { look: keyof typeof blocks; marked?: boolean; off?: boolean }) => (
  <button
    type="button"
    style={style}
    className={cx(
      style && 'absolute',
      blocks[look],
      marked && 'z-[5] outline-2 outline-offset-1 outline-fill',
      off && 'line-through opacity-70',
      className,
    )}
    {...rest}
  />
)
