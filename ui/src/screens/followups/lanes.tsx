import { useDraggable, useDroppable } from '@dnd-kit/core'
import type { FollowUpGroup, FollowUpView, Gauged } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Stage } from '../../api/gen/followup'
import { minutes } from '../../api/times'
import { List } from '../../kit/list'
import { sentences } from './sentences'

/** A follow-up can be picked up by mouse and touch. */
export function Carry({ f, onLift, children }: { f: FollowUpView; onLift: () => void; children: React.ReactNode }) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: f.uid })
  return (
    <div
      ref={setNodeRef}
      {...listeners}
      onPointerDownCapture={onLift}
      role="presentation"
      className={isDragging ? 'opacity-40' : ''}
    >
      {children}
    </div>
  )
}

/** How much of the team’s one of them has to do by the end of today, against what they usually finish. */
function Today({ group, today }: { group: FollowUpGroup; today: Gauged }) {
  const says = sentences.loadOfUsual(minutes(today.load), minutes(today.usual), today.weeks)
  return (
    <div className="px-0.5 pt-1.5" title={says} data-testid={'today-' + group.key}>
      <div className="h-1 overflow-hidden rounded-full bg-sand-200" aria-hidden>
        <div
          className={`h-full rounded-full ${today.over ? 'bg-coral-600' : 'bg-fill'}`}
          style={{ width: `${Math.min(100, (100 * today.load) / Math.max(today.usual, 1))}%` }}
        />
      </div>
      <p className={`mt-1 text-[12px] ${today.over ? 'text-coral-600' : 'text-ink-500'}`}>
        {sentences.loadToday(minutes(today.load), minutes(today.usual))}
        <span className="sr-only">{says}</span>
      </p>
    </div>
  )
}

const laneTones: Record<string, string> = {
  mine: 'border-fill',
  first: 'border-ink-900',
  others: 'border-plum-600',
  finished: 'border-kelp-600',
}

export function Lane({
  stage,
  first,
  group,
  owner,
  children,
}: {
  stage?: Stage
  owner: boolean // it is of what somebody of the team has, and not of a stage
  first: boolean
  group: FollowUpGroup
  children: React.ReactNode
}) {
  const { setNodeRef, isOver } = useDroppable({
    id: 'lane-' + group.key,
    data: owner ? { owner: Number(group.key) } : { stage: group.key },
  })
  const finished = stage?.means === 'finished'
  return (
    <section
      ref={setNodeRef}
      aria-label={group.name}
      data-lane={group.name}
      className={`flex min-h-0 flex-col rounded-[10px] ${isOver ? 'bg-tide-50' : ''}`}
    >
      <h2
        className={`flex justify-between border-b-2 px-0.5 pb-1.5 text-[13.5px] ${laneTones[first ? 'first' : (stage?.means ?? 'mine')]}`}
      >
        {group.name}
        {finished ? sentences.thisWeekJoined : ''}
        <span className="font-medium text-ink-500">{digits(group.count)}</span>
      </h2>
      {group.today && <Today group={group} today={group.today} />}
      <List
        label={group.name}
        empty={!group.count}
        className="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto pt-2 pb-3"
      >
        {children}
      </List>
    </section>
  )
}
