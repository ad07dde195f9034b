import { inside } from './delivery'
import type { Coming, Exception, Expected } from './gen/delivery'
import { clock, daysAway, weekday } from './times'

/** "Today 14:00 round", "Wed 8:00–10:00 open". */
export function comingName(c: Coming) {
  const away = daysAway(c.at)
  const day = away === 0 ? 'Today' : weekday(c.at)
  if (c.round) return `${day} ${clock(c.at)} round${inside(c.within)}`
  const ends =
    daysAway(c.until) === away
      ? clock(c.until)
      : clock(c.until) === '0:00'
        ? '24:00'
        : `${weekday(c.until)} ${clock(c.until)}`
  return `${day} ${clock(c.at)}–${ends} open`
}

/** How many to expect, with the range: "≈ 4, 2–6"; nothing where too little mail is known. */
export const about = (e: Expected) =>
  e.weeks < 2 ? '' : e.high < 1 ? 'hardly any' : e.mean < 0.5 ? `0–${e.high}` : `≈ ${Math.round(e.mean)}${range(e)}`
const range = (e: Expected) => (e.low === e.high ? '' : `, ${e.low}–${e.high}`)
export const between = (e: Expected) =>
  e.weeks < 2
    ? 'Too little mail to say how many'
    : `About four times in five between ${e.low} and ${e.high}, from the last ${e.weeks} weeks`

/** What an entry lets through, in words. */
export function entryName(e: Exception) {
  switch (e.by) {
    case 'domain':
      return '@' + e.value
    case 'own':
      return 'to ' + e.value
    case 'words':
      return `says “${e.value}”`
    case 'written':
      return `whom you wrote to in ${e.days} days`
    case 'importance':
      return 'very important to you'
    case 'code':
      return 'codes for signing in'
    case 'waited':
      return 'answers to what you asked'
  }
  return e.value
}
