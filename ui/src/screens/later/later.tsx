import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  MouseSensor,
  pointerWithin,
  TouchSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { useMemo, useState } from 'react'
import type { DayLoad } from '../../api/desk'
import { useDays, useLater, useSites } from '../../api/queries'
import { slipOf, useSlip } from '../../api/slips'
import { clock, date, dayKey, daysAway, weekday } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import type { Group } from '../worktop/sliplist'
import { Worktop } from '../worktop/worktop'
import { sentences } from './sentences'

/** What is snoozed, in the order of its return, under the days on which it comes back. */
export function Later() {
  const list = useLater()
  const { data: sites } = useSites()
  const { data: days } = useDays()
  const desk = useDesk()
  const [dragged, setDragged] = useState<number>()
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 8 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 8 } }),
  )
  const ids = useMemo(() => list.data?.pages.flatMap((p) => p.slips.map((s) => s.id)) ?? [], [list.data])
  const names = useMemo(() => new Map(sites?.sites.map((s) => [s.id, s.name])), [sites])
  const groups = useMemo(
    () => byDay(list.data?.pages.flatMap((p) => p.slips) ?? [], days ?? [], names),
    [list.data, days, names],
  )
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loadingWhatIsSnoozed} />
  if (!ids.length) return <Empty title={sentences.nothingIsSnoozed}>{sentences.aConversationYouSnooze}</Empty>
  const drop = (e: DragEndEvent) => {
    setDragged(undefined)
    const day = e.over?.data.current?.day as number | undefined
    const id = e.active.data.current?.id as number
    if (day !== undefined) void desk.decide({ kind: 'snooze', conversations: [id], seen: 'snoozed', day })
  }
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={(e) => setDragged(e.active.data.current?.id as number)}
      onDragEnd={drop}
      onDragCancel={() => setDragged(undefined)}
    >
      <div className="grid h-full grid-rows-[auto_minmax(0,1fr)]">
        <Fortnight days={days ?? []} dragging={dragged !== undefined} />
        <Worktop
          label={sentences.later}
          place="snoozed"
          groups={groups}
          wrap={(id, slip) => <Draggable id={id}>{slip}</Draggable>}
          position={(n, total) => sentences.ofSnoozed(n, total, list.hasNextPage ? sentences.orMore : '')}
          time={(s) => (s.position.return.at ? clock(s.position.return.at) : '')}
          onEnd={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
        />
      </div>
      <DragOverlay dropAnimation={null}>{dragged !== undefined && <Carried id={dragged} />}</DragOverlay>
    </DndContext>
  )
}

function Carried({ id }: { id: number }) {
  const slip = useSlip(id)
  return (
    <div className="w-52 rounded-[8px] border border-fill bg-sand-0 px-3 py-1.5 shadow-carried">
      <b className="block truncate">{slip?.from}</b>
      <span className="block truncate text-ink-700">{slip?.title || slip?.subject}</span>
    </div>
  )
}

/** The coming two weeks: what comes back and is due on each day; a slip dropped on a day comes back then. */
function Fortnight({ days, dragging }: { days: DayLoad[]; dragging: boolean }) {
  return (
    <div className="border-b border-sand-200 bg-sand-0 px-[22px] pt-3 pb-2.5 max-[700px]:px-3">
      <Heading size="small" className="mb-2">
        {sentences.later}{' '}
        <span className="text-[12.5px] font-normal text-ink-500">
          {dragging ? sentences.dropItOnThe : sentences.whatComesBackIn}
        </span>
      </Heading>
      <ol className="grid grid-cols-14 gap-1 max-[700px]:grid-cols-7" aria-label={sentences.theComingTwoWeeks}>
        {days.map((d, i) => (
          <DayBox key={d.start} d={d} day={i} />
        ))}
      </ol>
    </div>
  )
}

function DayBox({ d, day }: { d: DayLoad; day: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: 'day-' + day, data: { day } })
  const load = d.back + d.due
  return (
    <li
      ref={setNodeRef}
      data-day={day}
      title={sentences.comeBackDue(date(d.start), d.back, d.due)}
      className={cx(
        'rounded-[8px] px-1.5 py-1 text-[11px] max-[700px]:px-1',
        isOver ? 'bg-fill text-white' : load >= 12 ? 'bg-coral-100' : 'bg-sand-100 text-ink-500',
        day === 0 && 'outline-2 outline-offset-[-2px] outline-fill',
      )}
    >
      <b className={`block truncate text-[12px] max-[700px]:text-[10.5px] ${isOver ? 'text-white' : 'text-ink-900'}`}>
        {day === 0 ? sentences.today : `${weekday(d.start)} ${dayKey(d.start).slice(8).replace(/^0/, '')}`}
      </b>
      <span className="hidden max-[700px]:block">{load || sentences.free}</span>
      <span className="block truncate max-[700px]:hidden">
        {load
          ? [d.back && sentences.back(d.back), d.due && sentences.due(d.due)].filter(Boolean).join(', ')
          : sentences.free}
      </span>
    </li>
  )
}

/** A slip of Later can be picked up. */
function Draggable({ id, children }: { id: number; children: React.ReactNode }) {
  const { setNodeRef, listeners } = useDraggable({ id: 'slip-' + id, data: { id } })
  return (
    <div ref={setNodeRef} {...listeners} role="presentation" className="h-full">
      {children}
    </div>
  )
}

function byDay(
  slips: { id: number; position: NonNullable<ReturnType<typeof slipOf>>['position'] }[],
  days: DayLoad[],
  names: Map<number, string>,
): Group[] {
  const groups: Group[] = []
  const due = new Map(days.map((d) => [dayKey(d.start), d.due]))
  for (const s of slips) {
    const p = s.position
    const at = p.return.at
    const key =
      p.until === 'answer'
        ? 'answer'
        : p.until === 'site'
          ? 'site-' + p.site
          : p.until === 'someday'
            ? 'someday'
            : dayKey(at)
    let group = groups.find((g) => g.key === key)
    if (!group) {
      const away = daysAway(at)
      const day = away === 0 ? sentences.backToday : away === 1 ? sentences.backTomorrow : sentences.backNamed(date(at))
      const also = due.get(key)
      const name =
        key === 'answer'
          ? sentences.backWhenSomebodyAnswers
          : key === 'someday'
            ? sentences.somedayLookedThrough(date(at))
            : p.until === 'site'
              ? sentences.backWhenYouAre(names.get(p.site) ?? sentences.aPlace)
              : day + (also ? sentences.dueJoined(also) : '')
      group = { key, name, ids: [] }
      groups.push(group)
    }
    group.ids.push(s.id)
  }
  return groups
}
