import { team } from '../../api/base'
import type { Slip } from '../../api/desk'
import { clock, date, daysAway, due, long, now, short, wholeDay } from '../../api/times'
import { sentences } from './sentences'

const sectionNames: Record<string, string> = {
  'back-today': sentences.backToday,
  answers: sentences.answersToYou,
  bounced: sentences.notDelivered,
  here: sentences.waitedForThisPlace,
  unanswered: sentences.nobodyAnswered,
  through: sentences.letThrough,
  'let-in': sentences.letInByYou,
  'arrived-today': sentences.arrivedToday,
  someday: sentences.somedayLookedThroughToday,
  yesterday: sentences.leftOverFromYesterday,
  older: sentences.leftOverFromBefore,
}

/** A section of the queue by its key; rounds carry their instant. */
export function sectionName(key: string) {
  if (!key.startsWith('round-')) return sectionNames[key] ?? key
  const at = Number(key.slice(6))
  return sentences.arrivedInRound(
    daysAway(at) === 0 ? sentences.the : daysAway(at) === -1 ? sentences.yesterdays : sentences.s(date(at)),
    clock(at),
  )
}

const kinds: Record<string, string> = {
  list: sentences.list,
  notice: sentences.notice,
  receipt: sentences.receipt,
  invitation: sentences.invitation,
  bounce: sentences.undelivered,
}
export const kindName = (kind: string) => kinds[kind]

const reaches: Record<string, string> = {
  alone: sentences.toYouAlone,
  named: sentences.toYouAndOthers,
  copied: sentences.copiedToYou,
  unnamed: '',
}
export const reachName = (reach: string) => reaches[reach] ?? ''

export function ordinal(n: number) {
  const tail = n % 100 > 10 && n % 100 < 14 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th')
  return n + tail
}

/** The chip that says why a conversation is here, if it is not simply new. */
export function whyChip(s: Slip): { tone: 'tide' | 'with'; text: string } | null {
  if (s.position.reason === 'back')
    return { tone: 'tide', text: sentences.back(short(s.position.since), s.due ? '' : sentences.asYouAsked) }
  if (s.position.reason === 'unanswered') return { tone: 'with', text: sentences.nobodyAnsweredShort }
  if (s.position.reason === 'site') return { tone: 'tide', text: sentences.youAreThere }
  if (s.position.reason === 'someday') return { tone: 'tide', text: sentences.someday }
  if (s.position.reason === 'answer') return { tone: 'with', text: sentences.answersYou }
  if (s.position.reason === 'bounced') return { tone: 'with', text: sentences.notDeliveredShort }
  if (s.position.reason === 'through') return { tone: 'tide', text: sentences.letThroughShort }
  if (s.position.reason === 'let-in') return { tone: 'tide', text: sentences.letInByYouShort }
  return null
}

/** Why a conversation is where it is, in a sentence. */
export function whySentence(s: Slip) {
  const p = s.position
  switch (p.place) {
    case 'snoozed':
      if (p.until === 'answer') return sentences.snoozedUntilAnswer(long(p.snoozedAt))
      if (p.until === 'arrival') return sentences.snoozedUntilArrival(long(p.snoozedAt), long(p.return.at))
      if (p.until === 'site') return sentences.snoozedUntilPlace(long(p.snoozedAt))
      if (p.until === 'someday') return sentences.putOffToSomeday(long(p.snoozedAt), long(p.return.at))
      if (p.until === 'unless') return sentences.snoozedUntilOrAnswer(long(p.snoozedAt), long(p.return.at))
      return sentences.snoozedUntil(long(p.snoozedAt), long(p.return.at))
    case 'archived':
      return p.reason === 'decided' ? sentences.archived(long(p.since)) : sentences.inTheArchiveSince(long(p.since))
    case 'bin':
      return sentences.binned(long(p.since))
    case 'junk':
      return sentences.junkSince(long(p.since))
  }
  switch (p.reason) {
    case 'back':
      return sentences.youSnoozedItIt(long(p.snoozedAt), long(p.since))
    case 'unanswered':
      return sentences.youSnoozedItIn(long(p.snoozedAt))
    case 'site':
      return sentences.youSnoozedItUntil(long(p.snoozedAt))
    case 'someday':
      return sentences.youPutItOff(long(p.snoozedAt))
    case 'answer':
      return sentences.itAnswersWhatYou(long(p.since))
    case 'round':
      return sentences.itCameInWith(
        clock(p.round ?? p.since),
        daysAway(p.since) === 0 ? '' : sentences.of(date(p.round ?? p.since)),
      )
    case 'bounced':
      return sentences.whatYouWroteDid(long(p.since))
    case 'through':
      return sentences.itWasLetThrough(long(p.since))
    case 'let-in':
      return sentences.youLookedEarlyAnd(long(p.since))
    case 'decided':
      return sentences.youPutItHere(long(p.since))
  }
  return sentences.itCame(long(p.since))
}

/** How a due time stands: its words and its meaning. */
const HOUR = 3_600_000
/** In the box of a team: who has it, unless it is the reader; or for how long nobody has, once that is an hour. */
export function ownerChip(s: Slip): { tone: 'with' | 'late'; text: string } | null {
  if (!team || s.of) return null
  if (s.owner) return s.owner.mine ? null : { tone: 'with', text: s.owner.name.split(' ')[0] }
  const age = now() - s.position.since
  if (s.position.place !== 'inbox' || age < HOUR) return null
  const hours = Math.floor(age / HOUR)
  return {
    tone: 'late',
    text: hours < 48 ? sentences.hoursUnowned(hours) : sentences.daysUnowned(Math.floor(hours / 24)),
  }
}

export function dueChip(m: NonNullable<Slip['due']>): { tone: 'late' | 'due' | 'plain'; text: string } {
  if (m.at < now()) return { tone: 'late', text: sentences.lateWasDue(daysAway(m.at) === 0 ? clock(m.at) : date(m.at)) }
  if (daysAway(m.at) === 0) return { tone: 'due', text: wholeDay(m) ? sentences.dueToday : sentences.dueNamed(due(m)) }
  return { tone: 'plain', text: sentences.dueNamed(due(m)) }
}
