import { describe, expect, it } from 'vitest'
import { inWords, withPart } from './parts'

describe('a part said by a click', () => {
  it.each([
    ['', undefined, '27 nov 13:30', '27 nov 13:30'],
    ['urgent', undefined, '27 nov', 'urgent / 27 nov'],
    ['urgent /', undefined, '27 nov', 'urgent / 27 nov'],
    ['fri 10 / urgent', 'fri 10', '27 nov 13:30', '27 nov 13:30 / urgent'],
    ['27 nov / urgent', '27 nov', '27 nov', 'urgent'],
    ['loans', undefined, 'loans', ''],
  ])('in “%s” instead of “%s”', (line, before, words, want) => expect(withPart(line, before, words)).toBe(want))

  it('is said as one writes it', () => {
    expect(inWords('2026-11-27T13:30')).toBe('27 nov 13:30')
    expect(inWords('2026-01-04T08:00')).toBe('4 jan 8:00')
    expect(inWords('2026-12-24')).toBe('24 dec')
  })
})
