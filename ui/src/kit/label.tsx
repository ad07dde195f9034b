import type { LabelView } from '../api/desk'
import { useLabels } from '../api/queries'

/** The colours of labels: none of them is one that carries a meaning elsewhere. */
export const labelColors = ['tide', 'slate', 'deep', 'drift', 'reed', 'ink']
export const labelMarks = ['dot', 'ring', 'square', 'bar', 'wave', 'cross']
const marks: Record<string, React.ReactNode> = {
  dot: <circle cx="5" cy="5" r="3.6" fill="currentColor" />,
  ring: <circle cx="5" cy="5" r="3.2" fill="none" stroke="currentColor" strokeWidth="1.8" />,
  square: <rect x="1.8" y="1.8" width="6.4" height="6.4" rx="1" fill="currentColor" />,
  bar: <rect x="3.6" y="0.8" width="2.8" height="8.4" rx="1" fill="currentColor" />,
  wave: (
    <path
      d="M.8 5.8c2.1 0 2.1-2 4.2-2s2.1 2 4.2 2"
      fill="none"
      stroke="currentColor"
      strokeWidth="2"
      strokeLinecap="round"
    />
  ),
  cross: <path d="M2 2l6 6M8 2l-6 6" fill="none" stroke="currentColor" strokeWidth="2" strokeLinecap="round" />,
}

/** A label's mark in its colour. */
export const LabelMark = ({ color, mark }: { color: string; mark: string }) => (
  <svg width="10" height="10" viewBox="0 0 10 10" className={`label-${color} shrink-0`} aria-hidden>
    {marks[mark]}
  </svg>
)

export const useLabel = (id: number): LabelView | undefined => useLabels().data?.find((l) => l.id === id)

/** A label as it stands on a slip. */
export function LabelChip({ id, whole }: { id: number; whole?: boolean }) {
  const label = useLabel(id)
  if (!label) return null
  return (
    <span
      title={label.path}
      className="inline-flex max-w-32 shrink-0 items-center gap-1 rounded-[5px] border border-sand-300 px-1.5 text-[11px] text-ink-700"
    >
      <LabelMark color={label.color} mark={label.mark} />
      <span className="truncate">{whole ? label.path : label.name}</span>
    </span>
  )
}
