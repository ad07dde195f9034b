import { useDroppable } from '@dnd-kit/core'
import type { FollowUpList } from '../../api/desk'
import type { Day } from '../../api/gen/followup'
import type { Query } from '../../api/gen/search'
import { date, dayKey, minutes, weekday } from '../../api/times'
import { CardButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Load } from './parts'
import { sentences } from './sentences'

interface Box {
  id: string
  name: string
  open: number
  day?: number // counted from today: something dropped on it is due then
  load: { load: number; usual: number; over: boolean }
  title: string
  filter: Query
  mark?: 'late' | 'today'
}

const SHOWN = 7 // working days

/** Late, the coming days, and the rest: what is open on each by its effort against what is usually finished on such a day. */
export function Days({
  list,
  filter,
  onFilter,
  dragging,
}: {
  list: FollowUpList
  filter: Query
  onFilter: (n: Query) => void
  dragging: boolean
}) {
  const days = list.days
    .map((d, i) => ({ ...d, i }))
    .filter((d) => d.i === 0 || !d.off || d.open > 0)
    .slice(0, SHOWN)
  const last = days.at(-1)?.i ?? 0
  const rest = list.days.slice(last + 1).reduce((sum, d) => ({ open: sum.open + d.open, load: sum.load + d.load }), {
    open: list.later.open,
    load: list.later.load,
  })
  const tells = (d: Day) =>
    sentences.openYouUsuallyFinish(
      date(d.start),
      d.open,
      minutes(d.load),
      minutes(d.usual),
      d.over ? sentences.moreThanFits : '',
    )
  const boxes: Box[] = [
    {
      id: 'late',
      name: sentences.late,
      open: list.late.open,
      load: { load: list.late.load, usual: 0, over: list.late.open > 0 },
      title: sentences.lateNamed(list.late.open),
      filter: { group: 'late' },
      mark: 'late',
    },
    ...days.map((d): Box => ({
      id: dayKey(d.start),
      name: d.i === 0 ? sentences.today : d.i < 7 ? weekday(d.start) : date(d.start).replace(/ \w+$/, ''),
      open: d.open,
      day: d.i,
      load: d,
      title: tells(d),
      filter: { day: dayKey(d.start) },
      mark: d.i === 0 ? 'today' : undefined,
    })),
    {
      id: 'later',
      name: sentences.nextWeeks,
      open: rest.open,
      load: {
        load: rest.load,
        usual: Math.max(
          1,
          list.days.reduce((n, d) => n + d.usual, 0),
        ),
        over: false,
      },
      title: sentences.later(rest.open),
      filter: { group: 'next-weeks' },
    },
    {
      id: 'none',
      name: sentences.noDate,
      open: list.noDate.open,
      load: {
        load: list.noDate.load,
        usual: Math.max(
          1,
          list.days.reduce((n, d) => n + d.usual, 0),
        ),
        over: false,
      },
      title: sentences.withoutADateNamed(list.noDate.open),
      filter: { group: 'no-date' },
    },
  ]
  return (
    <ul
      className="mb-2 grid grid-cols-10 gap-1.5 max-[1000px]:grid-cols-5 max-[700px]:flex max-[700px]:overflow-x-auto"
      aria-label={sentences.days}
    >
      {boxes.map((b) => (
        <DayBox
          key={b.id}
          box={b}
          on={filter.day ? filter.day === b.filter.day : !!filter.group && filter.group === b.filter.group}
          dragging={dragging}
          onFilter={onFilter}
        />
      ))}
    </ul>
  )
}

function DayBox({
  box,
  on,
  dragging,
  onFilter,
}: {
  box: Box
  on: boolean
  dragging: boolean
  onFilter: (n: Query) => void
}) {
  const { setNodeRef, isOver } = useDroppable({
    id: 'day-' + box.id,
    data: { day: box.day, none: box.id === 'none' },
    disabled: box.day === undefined && box.id !== 'none',
  })
  return (
    <li ref={setNodeRef} className="min-w-0 max-[700px]:min-w-24">
      <CardButton
        small
        look={isOver ? 'over' : on ? 'on' : 'sand'}
        data-day={box.day ?? box.id}
        title={box.title}
        aria-pressed={on}
        onClick={() => onFilter(on ? {} : box.filter)}
        className={cx(
          'text-[11.5px] text-ink-500',
          dragging && box.day !== undefined
            ? 'outline-2 -outline-offset-2 outline-tide-400 outline-dashed'
            : box.mark === 'today'
              ? 'outline-2 -outline-offset-2 outline-fill'
              : '',
        )}
      >
        <b className={`block truncate text-[12.5px] ${box.load.over && box.open ? 'text-coral-600' : 'text-ink-900'}`}>
          {box.name}
        </b>
        <span className="block truncate">
          {box.load.over && box.day !== undefined ? sentences.openOverfull(box.open) : sentences.open(box.open)}
        </span>
        <Load day={box.load} />
      </CardButton>
    </li>
  )
}
