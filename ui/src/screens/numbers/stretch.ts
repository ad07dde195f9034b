import { addDays, dayOfWeek } from '../../api/times'

/** For how long a stretch of days is. */
export type Span = 'day' | 'week' | 'quarter' | 'year'
export const spans: Span[] = ['day', 'week', 'quarter', 'year']

/** A stretch of days, from the first date to the last. */
export interface Stretch {
  from: string
  to: string
}

const monthOf = (date: string) => Number(date.slice(5, 7)) - 1
const dateOf = (year: number, month: number, day: number) =>
  new Date(Date.UTC(year, month, day)).toISOString().slice(0, 10)

/** The stretch of that length in which a date lies; weeks begin on the day of the week `first`. */
export function stretchOf(span: Span, date: string, first: number): Stretch {
  const year = Number(date.slice(0, 4))
  switch (span) {
    case 'day':
      return { from: date, to: date }
    case 'week': {
      const from = addDays(date, -((dayOfWeek(date) - first + 7) % 7))
      return { from, to: addDays(from, 6) }
    }
    case 'quarter': {
      const month = Math.floor(monthOf(date) / 3) * 3
      return { from: dateOf(year, month, 1), to: dateOf(year, month + 3, 0) }
    }
    case 'year':
      return { from: dateOf(year, 0, 1), to: dateOf(year, 12, 0) }
  }
}

/** A date in the stretch before, or after. */
export const beside = (s: Stretch, by: -1 | 1) => (by < 0 ? addDays(s.from, -1) : addDays(s.to, 1))
