import type { Slip } from '../../api/gen/desk'
import { clock, date, daysAway, due, long, now, short, wholeDay } from '../../api/times'

export const sectionNames: Record<string, string> = {
  'back-today': 'Back today',
  answers: 'Answers to you',
  'arrived-today': 'Arrived today',
  yesterday: 'Left over from yesterday',
  older: 'Left over from before',
}

const kinds: Record<string, string> = {
  list: 'list', notice: 'notice', receipt: 'receipt', invitation: 'invitation', bounce: 'undelivered',
}
export const kindName = (kind: string) => kinds[kind]

export function ordinal(n: number) {
  const tail = n % 100 > 10 && n % 100 < 14 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th')
  return n + tail
}

/** The chip that says why a conversation is here, if it is not simply new. */
export function whyChip(s: Slip): { tone: 'tide' | 'with'; text: string } | null {
  if (s.position.reason === 'back') return { tone: 'tide', text: `back ${short(s.position.since)}${s.due ? '' : ', as you asked'}` }
  if (s.position.reason === 'answer') return { tone: 'with', text: 'answers you' }
  return null
}

/** Why a conversation is where it is, in a sentence. */
export function whySentence(s: Slip) {
  const p = s.position
  switch (p.place) {
    case 'snoozed':
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
    case 'answer':
      return `It answers what you wrote. It came ${long(p.since)}.`
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
