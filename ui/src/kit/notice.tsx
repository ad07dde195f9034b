import type { ReactNode } from 'react'
import { cx } from './cx'

const inks = { wrong: 'text-coral-600', doubt: 'text-amber-600', fine: 'text-kelp-600', plain: 'text-ink-700' }
const grounds = { wrong: 'bg-coral-100', doubt: 'bg-amber-100', fine: 'bg-kelp-100', plain: 'bg-tide-50' }

/** A sentence that has come up: read out at once where something is wrong, and else when the reader is silent. */
export const Notice = ({
  tone = 'wrong',
  boxed,
  testid,
  className = '',
  children,
}: {
  tone?: keyof typeof inks
  boxed?: boolean // on a ground of its own
  testid?: string
  className?: string
  children: ReactNode
}) => (
  <div
    role={tone === 'wrong' ? 'alert' : 'status'}
    data-testid={testid}
    className={cx(boxed ? `rounded-[10px] px-3.5 py-2.5 ${grounds[tone]}` : 'text-[12.5px]', inks[tone], className)}
  >
    {children}
  </div>
)
