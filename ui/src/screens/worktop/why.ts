import type { Slip } from '../../api/desk'
import { clock, date, daysAway, due, long, now, short, wholeDay } from '../../api/times'

const sectionNames: Record<string, string> = {
  'back-today': 'Back today',
  answers: 'Answers to you',
  bounced: 'Not delivered',
  here: 'Waited for this place',
  unanswered: 'Nobody answered',
  through: 'Let through',
  'let-in': 'Let in by you',
  'arrived-today': 'Arrived today',
  someday: 'Someday: looked through today',
  yesterday: 'Left over from yesterday',
  older: 'Left over from before',
}

/** A section of the queue by its key; rounds carry their instant. */
export function sectionName(key: string) {
  if (!key.startsWith('round-')) return sectionNames[key] ?? key
  const at = Number(key.slice(6))
  return `Arrived in ${daysAway(at) === 0 ? 'the' : daysAway(at) === -1 ? 'yesterday’s' : date(at) + '’s'} ${clock(at)} round`
}

const kinds: Record<string, string> = {
  list: 'list',
  notice: 'notice',
  receipt: 'receipt',
  invitation: 'invitation',
  bounce: 'undelivered',
}
export const kindName = (kind: string) => kinds[kind]

const reaches: Record<string, string> = {
  alone: 'to you alone',
  named: 'to you and others',
  copied: 'copied to you',
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
    return { tone: 'tide', text: `back ${short(s.position.since)}${s.due ? '' : ', as you asked'}` }
  if (s.position.reason === 'unanswered') return { tone: 'with', text: 'nobody answered' }
  if (s.position.reason === 'site') return { tone: 'tide', text: 'you are there' }
  if (s.position.reason === 'someday') return { tone: 'tide', text: 'someday' }
  if (s.position.reason === 'answer') return { tone: 'with', text: 'answers you' }
  if (s.position.reason === 'bounced') return { tone: 'with', text: 'not delivered' }
  if (s.position.reason === 'through') return { tone: 'tide', text: 'let through' }
  if (s.position.reason === 'let-in') return { tone: 'tide', text: 'let in by you' }
  return null
}

/** Why a conversation is where it is, in a sentence. */
export function whySentence(s: Slip) {
  const p = s.position
  switch (p.place) {
    case 'snoozed':
      if (p.until === 'answer') return `Snoozed ${long(p.snoozedAt)}. It comes back when somebody answers.`
      if (p.until === 'site') return `Snoozed ${long(p.snoozedAt)}. It comes back when you are at the place you named.`
      if (p.until === 'someday')
        return `Put off to someday ${long(p.snoozedAt)}. You look through such things ${long(p.return.at)}.`
      if (p.until === 'unless')
        return `Snoozed ${long(p.snoozedAt)}. It comes back ${long(p.return.at)}, or as soon as somebody answers.`
      return `Snoozed ${long(p.snoozedAt)}. It comes back ${long(p.return.at)}.`
    case 'archived':
      return p.reason === 'decided' ? `Archived ${long(p.since)}.` : `In the archive since it came, ${long(p.since)}.`
    case 'bin':
      return `Binned ${long(p.since)}.`
    case 'junk':
      return `Junk since ${long(p.since)}.`
  }
  switch (p.reason) {
    case 'back':
      return `You snoozed it ${long(p.snoozedAt)}. It came back ${long(p.since)}, as you asked.`
    case 'unanswered':
      return `You snoozed it ${long(p.snoozedAt)} in case nobody answered. Nobody has.`
    case 'site':
      return `You snoozed it ${long(p.snoozedAt)} until you are here.`
    case 'someday':
      return `You put it off to someday ${long(p.snoozedAt)}. Today is the day for such things.`
    case 'answer':
      return `It answers what you wrote. It came ${long(p.since)}.`
    case 'round':
      return `It came in with the ${clock(p.round ?? p.since)} round${daysAway(p.since) === 0 ? '' : ` of ${date(p.round ?? p.since)}`}.`
    case 'bounced':
      return `What you wrote did not reach everybody. You heard of it ${long(p.since)}.`
    case 'through':
      return `It was let through ${long(p.since)}, whatever the plan says.`
    case 'let-in':
      return `You looked early and let it in ${long(p.since)}.`
    case 'decided':
      return `You put it here ${long(p.since)}.`
  }
  return `It came ${long(p.since)}.`
}

/** How a due time stands: its words and its meaning. */
export function dueChip(m: NonNullable<Slip['due']>): { tone: 'late' | 'due' | 'plain'; text: string } {
  if (m.at < now()) return { tone: 'late', text: `late, was due ${daysAway(m.at) === 0 ? clock(m.at) : date(m.at)}` }
  if (daysAway(m.at) === 0) return { tone: 'due', text: wholeDay(m) ? 'due today' : 'due ' + due(m) }
  return { tone: 'plain', text: 'due ' + due(m) }
}
