import type { Part } from '../../api/gen/numbers'
import { sentences } from './sentences'

/** What became of what was decided, in the order in which it stands, by the kinds of decisions that say so. */
export const fates = [
  {
    id: 'archived',
    name: sentences.archived,
    kinds: ['archive', 'rest', 'fresh-start', 'silence'],
    ink: 'var(--kelp-600)',
  },
  { id: 'binned', name: sentences.binned, kinds: ['bin', 'never', 'code-over'], ink: 'var(--ink-400)' },
  { id: 'answered', name: sentences.answered, kinds: ['send', 'reply-with'], ink: 'var(--accent)' },
  { id: 'followed', name: sentences.followedUp, kinds: ['follow-up', 'wait', 'hand-over'], ink: 'var(--amber-600)' },
  { id: 'snoozed', name: sentences.snoozed, kinds: ['snooze'], ink: 'var(--plum-600)' },
  { id: 'junk', name: sentences.junk, kinds: ['junk', 'junk-found', 'block', 'all-junk'], ink: 'var(--coral-600)' },
  { id: 'ruled', name: sentences.byRules, kinds: ['rule'], ink: 'var(--tide-800)' },
  { id: 'else', name: sentences.otherwise, kinds: [] as string[], ink: 'var(--ink-700)' },
]

/** From where it came. */
export const origins = [
  { id: 'people', name: sentences.people, ink: 'var(--accent)' },
  { id: 'lists', name: sentences.lists, ink: 'var(--tide-800)' },
  { id: 'machines', name: sentences.notices, ink: 'var(--tide-400)' },
  { id: 'back', name: sentences.cameBack, ink: 'var(--amber-600)' },
]

/** What became of what is decided so. */
export const fateOf = (kind: string) => fates.find((f) => f.kinds.includes(kind)) ?? fates[fates.length - 1]

/** How much of each sort there is; none of it is 0. */
export const of = (parts: Part[], ...sorts: string[]) =>
  parts.reduce((n, p) => n + (sorts.includes(p.sort) ? p.n : 0), 0)

/** How much came from where and became what, each with the details by which its lines are found. */
export function flows(became: Part[]) {
  const all = new Map<string, { from: string; to: string; n: number; details: string[] }>()
  for (const p of became) {
    const [from, kind] = p.sort.split(' ')
    const to = fateOf(kind).id
    const flow = all.get(from + ' ' + to) ?? { from, to, n: 0, details: [] }
    all.set(from + ' ' + to, { ...flow, n: flow.n + p.n, details: [...flow.details, p.sort] })
  }
  return [...all.values()]
}
