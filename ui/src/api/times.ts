import type { Moment } from './gen/when'

let zone = Intl.DateTimeFormat().resolvedOptions().timeZone
let twelve = false
let shift = 0

/** Sets the zone and clock in which all times are shown. */
export function setZone(name: string, twelveHour: boolean) {
  if (name) zone = name
  twelve = twelveHour
  formats.clear()
}
/** Notes what the server takes as the present, which in the demo can be moved. */
export function setNow(at: number) {
  shift = at - Date.now()
}
export const now = () => Date.now() + shift

// A list says the same few times again and again, and to say one takes a browser some 20 µs: what was said is kept.
const MANY = 2000
const formats = new Map<string, { say: Intl.DateTimeFormat; said: Map<number, string> }>()
function format(at: number, options: Intl.DateTimeFormatOptions) {
  const key = Object.values(options).join() + Object.keys(options).join()
  let f = formats.get(key)
  if (!f)
    formats.set(key, (f = { say: new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options }), said: new Map() }))
  let text = f.said.get(at)
  if (text === undefined) {
    if (f.said.size >= MANY) f.said.clear()
    f.said.set(at, (text = f.say.format(at).replace(',', '')))
  }
  return text
}

const DAY = 86_400_000
const MINUTE = 60_000
/** Noon of a day in UTC: a number for the day, in whatever zone. */
const noon = (day: string) => Date.parse(day + 'T12:00Z')
/** What the clock on the wall shows: 2026-11-24T08:12. */
const wall = (at: number) =>
  dayKey(at) + 'T' + format(at, { hour: '2-digit', minute: '2-digit', hour12: false }).replace('24:', '00:')

/** "8:12", or "8:12 am" where that is chosen. */
export const clock = (at: number) => {
  const text = format(at, { hour: 'numeric', minute: '2-digit', hour12: twelve })
  return text.replace(/^0(\d)/, '$1')
}
/** The same of minutes after midnight, as plans and reminders have them. */
export const clockOf = (minutes: number) => {
  if (minutes === 1440) return twelve ? 'midnight' : '24:00' // where a day ends
  const [h, m] = [Math.floor(minutes / 60) % 24, String(minutes % 60).padStart(2, '0')]
  return twelve ? `${h % 12 || 12}:${m} ${h < 12 ? 'am' : 'pm'}` : `${h}:${m}`
}
/** The day as a key that sorts: 2026-11-24. */
export const dayKey = (at: number) => {
  const parts = format(at, { year: 'numeric', month: '2-digit', day: '2-digit' }).split('/')
  return parts.reverse().join('-')
}
/** The same of today. */
export const today = () => dayKey(Math.floor(now() / MINUTE) * MINUTE) // a day begins with a minute
/** The day n days after another. */
export const addDays = (day: string, n: number) => new Date(noon(day) + n * DAY).toISOString().slice(0, 10)
/** The day of the week of a day: 0 is Sunday. */
export const dayOfWeek = (day: string) => new Date(noon(day)).getUTCDay()
/** The instant at which a day begins where the user is. */
export function startOf(day: string) {
  const clockAt = (at: number) => Date.parse(wall(at) + 'Z')
  const written = Date.parse(day + 'T00:00Z')
  let at = written - (clockAt(written) - written)
  at -= clockAt(at) - written
  while (dayKey(at) < day) at += 15 * 60_000 // its midnight does not exist there
  while (dayKey(at - 1) === day) at -= 15 * 60_000
  return at
}
/** "Tue 24 Nov", with the year if it is another one. */
export const date = (at: number) => dateOf(dayKey(at))
export const dateOf = (day: string) => {
  const options: Intl.DateTimeFormatOptions = { timeZone: 'UTC', weekday: 'short', day: 'numeric', month: 'short' }
  return format(noon(day), day.slice(0, 4) === today().slice(0, 4) ? options : { ...options, year: 'numeric' })
}
export const weekday = (at: number) => format(at, { weekday: 'short' })
export const weekdayOf = (day: string) => format(noon(day), { timeZone: 'UTC', weekday: 'short' })
export const month = (at: number) => format(at, { month: 'long', year: 'numeric' })
/** Days from today: 0 today, -1 yesterday. */
export const daysAway = (at: number) => Math.round((Date.parse(dayKey(at)) - Date.parse(today())) / 86_400_000)

/** As short as it can be said in a list: a time today, a weekday this week, else a date. */
export function short(at: number) {
  const away = daysAway(at)
  if (away === 0) return clock(at)
  if (away > -7 && away < 7) return weekday(at)
  const options: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short' }
  return dayKey(at).slice(0, 4) === dayKey(now()).slice(0, 4)
    ? format(at, options)
    : format(at, { ...options, year: 'numeric' })
}
/** "today 8:12", "yesterday 8:12", "Fri 27 Nov, 13:30". */
export function long(at: number) {
  const away = daysAway(at)
  const day = away === 0 ? 'today' : away === -1 ? 'yesterday' : away === 1 ? 'tomorrow' : date(at)
  return day.includes(' ') ? `${day}, ${clock(at)}` : `${day} ${clock(at)}`
}
export const wholeDay = (m: Moment) => m.local?.length === 10
/** A due time: "today 15:00", "Thu 12:00", "7 Dec". */
export function due(m: Moment) {
  const away = daysAway(m.at)
  const day = away === 0 ? 'today' : away === 1 ? 'tomorrow' : away === -1 ? 'yesterday' : short(m.at)
  return wholeDay(m) ? day : `${day} ${clock(m.at)}`
}
/** "3 days", "5 h", "20 min". */
export function span(ms: number) {
  const minutes = Math.max(1, Math.round(ms / 60_000))
  if (minutes < 60) return `${minutes} min`
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`
  return `${Math.round(minutes / 1440)} days`
}
/** "30 min", "1 h 30 min". */
export const minutes = (n: number) =>
  n < 60 ? `${n} min` : n % 60 ? `${Math.floor(n / 60)} h ${n % 60} min` : `${n / 60} h`
/** A size in bytes, as people say it. */
export const size = (n: number) =>
  n < 1000 ? `${n} bytes` : n < 1_000_000 ? `${Math.round(n / 1000)} kB` : `${(n / 1_000_000).toFixed(1)} MB`
export const plural = (n: number, one: string, many = one + 's') => `${n} ${n === 1 ? one : many}`
/** The names of the seven days, Sunday first. */
export const weekdays = (length: 'short' | 'long') =>
  Array.from({ length: 7 }, (_, day) =>
    new Intl.DateTimeFormat('en-GB', { weekday: length, timeZone: 'UTC' }).format(Date.UTC(2026, 0, 4 + day)),
  )
