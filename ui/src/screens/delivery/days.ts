import { weekdays } from '../../api/times'

export const order = [1, 2, 3, 4, 5, 6, 0] // Monday first
export const names = weekdays('short')
/** The days whose bits are set, in words. */
export const daysIn = (bits: number) =>
  order
    .filter((d) => bits & (1 << d))
    .map((d) => names[d])
    .join(', ')
export const long = weekdays('long')
