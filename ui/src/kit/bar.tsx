import type { ReactNode } from 'react'
import { cx } from './cx'

/** The bar at the foot of a screen: what can be decided, and above it the tray that is open. */
export const DecisionBar = ({ children }: { children: ReactNode }) => (
  <div
    role="toolbar"
    aria-label="Decisions"
    className="relative col-span-full min-w-0 border-t border-sand-300 bg-sand-100"
  >
    {children}
  </div>
)

/** The row of large keys in it, and what stands at its right end; on a narrow screen above them. */
export const BarKeys = ({ side, children }: { side?: ReactNode; children: ReactNode }) => (
  <div
    className={cx(
      'flex items-center gap-2 px-4 py-[11px] max-[1180px]:gap-1.5',
      'max-[700px]:flex-col-reverse max-[700px]:items-stretch max-[700px]:gap-0 max-[700px]:px-1 max-[700px]:py-1',
    )}
  >
    <div className="contents max-[700px]:flex max-[700px]:items-center">{children}</div>
    {side}
  </div>
)
