import { Toggle as Pressed, RadioGroup as Radios, Tabs as TabSet, ToggleGroup as Toggles } from 'radix-ui'
import type { MouseEvent, ReactNode } from 'react'
import type { Press } from './button'
import { cx } from './cx'

/** Something that can be chosen; data are attributes by which it is found. */
export interface Option<T> {
  id: T
  name: ReactNode
  label?: string // where its name is a picture
  note?: string
  disabled?: boolean
  data?: Record<`data-${string}`, string>
}

const item = cx(
  'inline-flex min-h-6 items-center gap-1 rounded-[7px] px-2 py-0.5 text-[12.5px]',
  'disabled:opacity-50 aria-checked:font-semibold aria-checked:text-tide-800',
  'aria-pressed:font-semibold aria-pressed:text-tide-800 forced-colors:aria-checked:outline',
  'forced-colors:aria-pressed:outline',
)
const looks = {
  plain: 'text-ink-500 hover:bg-sand-100 aria-checked:bg-tide-100 aria-pressed:bg-tide-100',
  framed: cx(
    'border border-sand-300 bg-sand-0 text-ink-700 hover:bg-sand-100 aria-checked:border-fill',
    'aria-checked:bg-tide-100 aria-pressed:border-fill aria-pressed:bg-tide-100',
  ),
}
type Look = keyof typeof looks

interface Choosing<T> {
  label: string
  options: Option<T>[]
  value: T
  look?: Look
  disabled?: boolean
  className?: string
  onChange: (value: T) => void
}

/** What was chosen by pointer on a screen does not keep the focus: Home, End and arrows belong to the list there. */
const letGo = (e: MouseEvent<HTMLElement>) => {
  if (e.detail > 0 && !e.currentTarget.closest('[data-tray]')) e.currentTarget.blur()
}

const parts = <T,>(o: Option<T>, look: Look) => ({
  onClick: letGo,
  'aria-label': o.label,
  title: o.note,
  disabled: o.disabled,
  className: `${item} ${looks[look]}`,
  ...o.data,
})
const row = (className: string) => `flex flex-wrap gap-1.5 ${className}`
const at = <T,>(options: Option<T>[], value: T) => String(options.findIndex((o) => o.id === value))

/** One of several, always: arrow keys go from one to the next. */
export const RadioGroup = <T,>({
  label,
  options,
  value,
  look = 'framed',
  className = '',
  onChange,
  ...rest
}: Choosing<T>) => (
  <Radios.Root
    aria-label={label}
    orientation="horizontal"
    value={at(options, value)}
    onValueChange={(v) => onChange(options[Number(v)].id)}
    className={row(className)}
    {...rest}
  >
    {options.map((o, i) => (
      <Radios.Item key={i} value={String(i)} {...parts(o, look)}>
        {o.name}
      </Radios.Item>
    ))}
  </Radios.Root>
)

/** One of several, always, each in a line of its own with what it means below. */
export const ChoiceList = <T,>({ label, options, value, onChange }: Omit<Choosing<T>, 'look' | 'className'>) => (
  <Radios.Root
    aria-label={label}
    orientation="vertical"
    value={at(options, value)}
    onValueChange={(v) => onChange(options[Number(v)].id)}
    className="grid"
  >
    {options.map((o, i) => (
      <Radios.Item
        key={i}
        value={String(i)}
        onClick={letGo}
        disabled={o.disabled}
        className={cx(
          'group grid grid-cols-[18px_minmax(0,1fr)] items-baseline rounded-[7px] px-2 py-1 text-left',
          'hover:bg-sand-100 disabled:opacity-50 aria-checked:bg-tide-50',
        )}
      >
        <span
          aria-hidden
          className="size-[11px] translate-y-px rounded-full border-[1.5px] border-ink-400 group-aria-checked:border-[4px] group-aria-checked:border-fill"
        />
        <span className="min-w-0">
          <span className="group-aria-checked:font-semibold group-aria-checked:text-tide-800">{o.name}</span>
          {o.note && <span className="block truncate text-[12px] text-ink-500">{o.note}</span>}
        </span>
      </Radios.Item>
    ))}
  </Radios.Root>
)

/** One of several or none: pressing the chosen one again lets it go, for what none stands for. */
export const ToggleGroup = <T,>({
  label,
  options,
  value,
  none,
  look = 'framed',
  className = '',
  onChange,
  ...rest
}: Choosing<T> & { none: T }) => (
  <Toggles.Root
    type="single"
    aria-label={label}
    orientation="horizontal"
    value={at(options, value)}
    onValueChange={(v) => onChange(v ? options[Number(v)].id : none)}
    className={row(className)}
    {...rest}
  >
    {options.map((o, i) => (
      <Toggles.Item key={i} value={String(i)} {...parts(o, look)}>
        {o.name}
      </Toggles.Item>
    ))}
  </Toggles.Root>
)

/** Something that is on or off. */
export const Toggle = ({
  on,
  look = 'framed',
  className = '',
  onChange,
  ...rest
}: Omit<Press, 'onChange'> & { on: boolean; look?: Look; onChange: (on: boolean) => void }) => (
  <Pressed.Root pressed={on} onPressedChange={onChange} className={`${item} ${looks[look]} ${className}`} {...rest} />
)

/** Several views of one thing, of which one is shown: TabList has their names, TabPanel the one that is shown. */
export const Tabs = <T extends string>({
  value,
  className,
  onChange,
  children,
}: {
  value: T
  className?: string
  onChange: (value: T) => void
  children: ReactNode
}) => (
  <TabSet.Root value={value} onValueChange={(v) => onChange(v as T)} className={className}>
    {children}
  </TabSet.Root>
)
export const TabList = ({ label, options }: { label: string; options: Option<string>[] }) => (
  <TabSet.List
    aria-label={label}
    className="flex max-w-full min-w-0 [scrollbar-width:none] gap-0.5 overflow-x-auto rounded-[9px] bg-sand-100 p-[3px]"
  >
    {options.map((o) => (
      <TabSet.Trigger
        key={o.id}
        value={o.id}
        onClick={letGo}
        className={cx(
          'min-h-6 rounded-[7px] px-2.5 py-1 text-[12.5px] whitespace-nowrap text-ink-500',
          'hover:text-ink-900 aria-selected:bg-sand-0 aria-selected:font-[650] aria-selected:text-ink-900',
          'aria-selected:shadow-raised forced-colors:aria-selected:outline',
        )}
        {...o.data}
      >
        {o.name}
      </TabSet.Trigger>
    ))}
  </TabSet.List>
)
export const TabPanel = ({
  value,
  className,
  children,
}: {
  value: string
  className?: string
  children: ReactNode
}) => (
  <TabSet.Content value={value} tabIndex={-1} className={className}>
    {children}
  </TabSet.Content>
)
