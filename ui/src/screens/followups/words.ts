import type { LabelView } from '../../api/desk'
import type { Stage } from '../../api/gen/followup'
import type { Query } from '../../api/gen/search'
import { dateOf } from '../../api/times'
import { priorityName } from '../../kit/kit'
import { sentences } from './sentences'

const groups: Record<string, string> = {
  late: sentences.lateShort,
  today: sentences.dueToday,
  tomorrow: sentences.dueTomorrow,
  'this-week': sentences.thisWeek,
  'next-weeks': sentences.nextWeeksShort,
  'no-date': sentences.withoutADateShort,
}

/** What a filter of follow-ups asks for, each part in words. */
export function filterWords(n: Query, known: { stages: Stage[]; labels: LabelView[] }): string[] {
  return [
    n.day && sentences.due(dateOf(n.day)),
    n.group && groups[n.group],
    n.stage && (known.stages.find((s) => s.id === n.stage)?.name ?? sentences.aStage),
    n.project && sentences.project(n.project),
    n.person && sentences.with(n.person),
    n.context && sentences.at(n.context),
    n.priority && priorityName(n.priority),
    n.label && sentences.label(known.labels.find((l) => l.id === n.label)?.path ?? ''),
    n.words && `“${n.words}”`,
  ].filter((w): w is string => !!w)
}
