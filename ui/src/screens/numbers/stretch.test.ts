import { describe, expect, it } from 'vitest'
import { beside, stretchOf } from './stretch'

describe('a stretch of days', () => {
  it('has the date in it, and begins where such stretches do', () => {
    for (const [span, date, first, from, to] of [
      ['day', '2026-11-24', 1, '2026-11-24', '2026-11-24'],
      ['week', '2026-11-24', 1, '2026-11-23', '2026-11-29'],
      ['week', '2026-11-29', 1, '2026-11-23', '2026-11-29'],
      ['week', '2026-11-29', 0, '2026-11-29', '2026-12-05'],
      ['week', '2026-01-01', 6, '2025-12-27', '2026-01-02'],
      ['quarter', '2026-11-24', 1, '2026-10-01', '2026-12-31'],
      ['quarter', '2024-02-29', 1, '2024-01-01', '2024-03-31'],
      ['year', '2024-02-29', 1, '2024-01-01', '2024-12-31'],
    ] as const)
      expect(stretchOf(span, date, first)).toEqual({ from, to })
  })

  it('has one before it and one after', () => {
    const week = stretchOf('week', '2026-11-24', 1)
    expect(stretchOf('week', beside(week, -1), 1)).toEqual({ from: '2026-11-16', to: '2026-11-22' })
    expect(stretchOf('week', beside(week, 1), 1)).toEqual({ from: '2026-11-30', to: '2026-12-06' })
    expect(stretchOf('quarter', beside(stretchOf('quarter', '2026-01-05', 1), -1), 1).from).toBe('2025-10-01')
  })
})
