import { team } from '../../api/base'
import type { LabelView } from '../../api/desk'
import type { OwnStream } from '../../api/gen/delivery'
import type { Query } from '../../api/gen/search'
import { sentences } from './sentences'

export const groupings: Record<string, string> = {
  ...(team ? { owner: sentences.byOwner } : {}),
  why: sentences.byReason,
  sender: sentences.bySender,
  subject: sentences.bySubject,
  kind: sentences.byKind,
  day: sentences.byDay,
  account: sentences.byYourAddress,
  importance: sentences.byImportance,
  stream: sentences.byStream,
}
export const orderings: Record<string, string> = {
  newest: sentences.newestFirst,
  oldest: sentences.oldestFirst,
  sender: sentences.byName,
  importance: sentences.importantFirst,
  size: sentences.largestFirst,
}

/** What the inbox can be filtered to. */
export const marks: { name: string; is: Query }[] = [
  { name: sentences.unread, is: { unread: true } },
  { name: sentences.starred, is: { starred: true } },
  { name: sentences.withAFollowUp, is: { flagged: true } },
  { name: sentences.withFiles, is: { files: true } },
  { name: sentences.toMeAlone, is: { reach: 'alone' } },
  { name: sentences.copiedToMe, is: { reach: 'copied' } },
  { name: sentences.fromPeople, is: { kind: 'person' } },
  { name: sentences.lists, is: { kind: 'list' } },
  { name: sentences.notices, is: { kind: 'notice' } },
  { name: sentences.receipts, is: { kind: 'receipt' } },
  { name: sentences.invitations, is: { kind: 'invitation' } },
]
/** Whether a query filters to that. */
export const holds = (where: Query, is: Query) => Object.entries(is).every(([k, v]) => where[k as keyof Query] === v)

/** What a query filters to, in words. */
export function filtered(where: Query, labels: LabelView[], own: OwnStream[] = []) {
  const words = marks.filter((m) => holds(where, m.is)).map((m) => m.name)
  if (where.from) words.push(sentences.from(where.from))
  if (where.account) words.push(sentences.to(where.account))
  if (where.label) words.push(sentences.labelled(labels.find((l) => l.id === where.label)?.path ?? ''))
  if (where.together) words.push(sentences.cameTogether)
  if (where.stream === 'machines') words.push(sentences.inNewsletters)
  else if (where.stream === 'people') words.push(sentences.inPeople)
  else if (where.stream) words.push(sentences.in(own.find((o) => o.id === where.stream)?.name ?? where.stream))
  if (where.project) words.push(sentences.ofProject(where.project))
  if (where.words) words.push(sentences.with(where.words))
  return words.join(', ')
}
