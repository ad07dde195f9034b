import type { Standing } from './gen/delivery'
import { clock, date, daysAway, weekday } from './times'

/** A time as short as it can be said: today only the clock. */
const at = (t: number) => {
  const away = daysAway(t)
  return away === 0 ? clock(t) : away > 0 && away < 7 ? `${weekday(t)} ${clock(t)}` : `${date(t)} ${clock(t)}`
}

/** In what a round lies all the same. */
export const inside = (within?: string) => (within ? `, in “${within}”` : '')

/** How delivery stands, in words: "Held. Next round 14:00". */
export function standingWords(s: Standing) {
  if (s.state === 'open')
    return s.hand
      ? `Open by hand${s.until ? ' until ' + at(s.until) : ''}`
      : s.until
        ? 'Open until ' + at(s.until)
        : 'Mail comes as sent'
  if (s.state === 'hand') return `Held by hand${s.until ? ' until ' + at(s.until) : ''}`
  if (!s.next.at) return 'Held. No delivery planned'
  return s.next.round ? 'Held. Next round ' + at(s.next.at) + inside(s.next.within) : 'Held. Opens ' + at(s.next.at)
}

/** Why nothing comes in now. */
export const whyHeld = (s: Standing) =>
  s.state === 'focus'
    ? `Kept free: ${s.name}`
    : s.state === 'quiet'
      ? 'Quiet hours'
      : s.state === 'hand'
        ? 'Held by hand'
        : 'Outside your open hours'
