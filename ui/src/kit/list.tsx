import { type ReactNode, useEffect, useRef } from 'react'

/**
 * A list that is gone through by keys, whose lines have controls of their own (WAI-ARIA, grid): one stop for Tab, the
 * current line, which has the focus wherever the keys go in it.
 */
export const List = ({
  label,
  empty,
  className,
  children,
}: {
  label: string
  empty?: boolean
  className?: string
  children: ReactNode
}) => (
  <div role={empty ? undefined : 'grid'} aria-label={empty ? undefined : label} className={className}>
    {children}
  </div>
)

const looks = {
  line: 'border-b border-sand-200',
  card: 'rounded-[10px] border',
}
const grounds = {
  line: ['hover:bg-sand-100/60', 'bg-sand-0 shadow-[inset_4px_0_0_var(--fill)]'],
  card: ['border-sand-200 bg-sand-0 hover:border-sand-300', 'border-fill bg-sand-0 shadow-[inset_3px_0_0_var(--fill)]'],
}

interface Props {
  id?: string
  testid?: string
  title: string // by which it is found and named
  current: boolean
  look?: keyof typeof looks
  className?: string // how its parts stand
  onChoose: () => void
  onOpen?: () => void
  children: ReactNode
}

/** A line of it. */
export function Row({ id, testid, title, current, look = 'line', className, onChoose, onOpen, children }: Props) {
  const row = useRef<HTMLDivElement>(null)
  const before = useRef(current)
  useEffect(() => {
    const came = current && !before.current
    before.current = current
    const at = document.activeElement
    if (came && (!at || at === document.body || at.closest('[role=grid], h1'))) row.current?.focus()
  }, [current])
  return (
    <div
      ref={row}
      id={id}
      role="row"
      tabIndex={current ? 0 : -1}
      aria-label={title}
      aria-selected={current}
      aria-current={current}
      data-followup={title}
      data-testid={testid}
      onClick={onChoose}
      onKeyDown={(e) => {
        if (e.key !== ' ' || e.target !== e.currentTarget) return
        e.preventDefault()
        onChoose()
      }}
      onDoubleClick={onOpen}
      className={`focus-visible:-outline-offset-2 forced-colors:aria-selected:outline ${looks[look]} ${grounds[look][current ? 1 : 0]}`}
    >
      <div role="gridcell" className={className}>
        {children}
      </div>
    </div>
  )
}

/** A line that leads to more of them. */
export const MoreRow = ({ children }: { children: ReactNode }) => (
  <div role="row">
    <div role="gridcell">{children}</div>
  </div>
)
