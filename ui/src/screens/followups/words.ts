import type { LabelView } from '../../api/desk'
import type { Filter, Stage } from '../../api/gen/followup'
import { dateOf } from '../../api/times'
import { priorityName } from '../../kit/kit'

const groups: Record<string, string> = {
  late: 'late',
  today: 'due today',
  tomorrow: 'due tomorrow',
  'this-week': 'this week',
  'next-weeks': 'next weeks',
  'no-date': 'without a date',
}

/** What a filter of follow-ups asks for, each part in words. */
export function filterWords(n: Filter, known: { stages: Stage[]; labels: LabelView[] }): string[] {
  return [
    n.day && 'due ' + dateOf(n.day),
    n.group && groups[n.group],
    n.stage && (known.stages.find((s) => s.id === n.stage)?.name ?? 'a stage'),
    n.project && 'project ' + n.project,
    n.person && 'with ' + n.person,
    n.context && 'at ' + n.context,
    n.priority && priorityName(n.priority),
    n.label && 'label ' + (known.labels.find((l) => l.id === n.label)?.path ?? ''),
    n.words && `“${n.words}”`,
  ].filter((w): w is string => !!w)
}
