import type { Stretch } from './stretch'

/** A number, as the address of its lines says which. */
export interface Opened extends Stretch {
  measure: string
  details?: string[]
  by?: string
  weekday?: number
  hour?: number
  name: string // what it counts, in words
}

/** Where the lines of a number stand. */
export function linesOf(o: Opened) {
  const to = new URLSearchParams({ measure: o.measure, from: o.from, to: o.to, name: o.name })
  if (o.details?.length) to.set('details', o.details.join(','))
  if (o.by) to.set('by', o.by)
  if (o.weekday !== undefined) to.set('weekday', String(o.weekday))
  if (o.hour !== undefined) to.set('hour', String(o.hour))
  return '/numbers/lines?' + to.toString()
}

/** Where the notifications of some days stand. */
export const noticesOf = ({ from, to }: Stretch) => '/numbers/notices?' + new URLSearchParams({ from, to }).toString()

/** A number of answers, as the address of its lines says which. */
export interface OpenedAnswers extends Stretch {
  own: boolean
  open?: boolean
  by?: string
  key?: string
  name: string
}

/** Where the lines of a number of answers stand. */
export function answersOf(o: OpenedAnswers) {
  const to = new URLSearchParams({ from: o.from, to: o.to, own: o.own ? '1' : '', name: o.name })
  if (o.open) to.set('open', '1')
  if (o.by && o.key !== undefined) {
    to.set('by', o.by)
    to.set('key', o.key)
  }
  return '/numbers/answers/lines?' + to.toString()
}
