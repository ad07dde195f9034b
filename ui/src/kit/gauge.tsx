/** The level of a full gauge: what stands so is important. */
export const FULL = 4

/** How important something is, as a small upright bar; nothing where that was never weighed. The tip says why. */
export const Gauge = ({ level, tip, className }: { level: number; tip?: string; className?: string }) =>
  level < 0 ? null : <span aria-hidden data-level={level} data-tip={tip} className={'gauge ' + (className ?? '')} />
