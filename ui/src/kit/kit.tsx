import type { ReactNode } from 'react'
import { TextButton } from './button'

type Tone = 'plain' | 'tide' | 'late' | 'due' | 'with' | 'done'
const tones: Record<Tone, string> = {
  plain: 'bg-sand-100 text-ink-700',
  tide: 'bg-tide-100 text-tide-800',
  late: 'bg-coral-100 text-coral-600',
  due: 'bg-amber-100 text-amber-600',
  with: 'bg-plum-100 text-plum-600',
  done: 'bg-kelp-100 text-kelp-600',
}

/** A word on a coloured ground; the colour never speaks alone. */
export const Chip = ({ tone = 'plain', children }: { tone?: Tone; children: ReactNode }) => (
  <span
    className={`inline-block max-w-56 shrink-0 truncate rounded-[5px] px-1.5 py-px text-[11px] font-[550] whitespace-nowrap ${tones[tone]}`}
  >
    {children}
  </span>
)

export const Key = ({ children, light }: { children: ReactNode; light?: boolean }) => (
  <kbd
    className={`rounded-[5px] px-1.5 py-0.5 font-sans text-[11px] font-[650] ${light ? 'bg-white text-frame' : 'bg-ink-900 text-sand-0'}`}
  >
    {children}
  </kbd>
)

const levels: Record<number, { n: number; name: string; color: string }> = {
  1: { n: 3, name: 'urgent', color: 'var(--coral-600)' },
  3: { n: 3, name: 'high', color: 'var(--ink-500)' },
  5: { n: 2, name: 'normal', color: 'var(--ink-500)' },
  9: { n: 1, name: 'low', color: 'var(--ink-500)' },
}
export const priorities = [1, 3, 5, 9]
export const priorityName = (p: number) => levels[p]?.name ?? 'normal'

/** A priority as waves: one, two, three lines; three in coral is urgent. */
export function Waves({ priority }: { priority: number }) {
  const level = levels[priority] ?? levels[5]
  return (
    <svg
      width="18"
      height="15"
      viewBox="0 0 18 15"
      role="img"
      aria-label={level.name}
      fill="none"
      stroke={level.color}
      strokeWidth="1.7"
      strokeLinecap="round"
    >
      {Array.from({ length: level.n }, (_, i) => (
        <path key={i} d={`M1 ${12.5 - i * 4.5}c2.6 0 2.6-2 5.3-2s2.7 2 5.4 2 2.6-2 5.3-2`} />
      ))}
    </svg>
  )
}

/** What stands where a list is empty: what will appear there. */
export const Empty = ({ title, children }: { title: string; children: ReactNode }) => (
  <div className="mx-auto max-w-md px-6 py-16 text-center">
    <svg
      width="120"
      height="26"
      viewBox="0 0 120 26"
      className="mx-auto mb-4"
      fill="none"
      stroke="var(--tide-400)"
      strokeWidth="2"
      strokeLinecap="round"
      aria-hidden
    >
      <path d="M4 10c14 0 14-6 28-6s14 6 28 6 14-6 28-6 14 6 28 6" />
      <path d="M20 21c10 0 10-4 20-4s10 4 20 4 10-4 20-4 10 4 20 4" opacity=".5" />
    </svg>
    <h2 className="mb-1 text-[16px]">{title}</h2>
    <p className="text-ink-500">{children}</p>
  </div>
)

/** A line that says a view could not be read, and lets one try again. */
export const Failed = ({ error, again }: { error: Error; again: () => void }) => (
  <div role="alert" className="m-6 rounded-[10px] bg-coral-100 px-4 py-3 text-coral-600">
    {error.message}{' '}
    <TextButton tone="late" onClick={again}>
      Try again
    </TextButton>
  </div>
)
