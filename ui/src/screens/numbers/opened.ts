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
