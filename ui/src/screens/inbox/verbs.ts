import { sentences } from './sentences.parts'

export const verbs: [string, string][] = [
  ['bin', sentences.binned],
  ['archive', sentences.archived],
  ['rest', sentences.archivedAsTheRest],
  ['fresh-start', sentences.archivedForAFresh],
  ['snooze', sentences.snoozed],
  ['send', sentences.answeredOrHandedOver],
  ['follow-up', sentences.madeFollowUps],
  ['combo', sentences.byCombos],
  ['here', sentences.broughtBack],
  ['finish', sentences.finished],
]
