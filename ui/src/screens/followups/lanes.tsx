import { useDraggable, useDroppable } from '@dnd-kit/core'
import type { FollowUpGroup, FollowUpView } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Stage } from '../../api/gen/followup'
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
