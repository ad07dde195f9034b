import { useRef, useState } from 'react'
import type { Slip } from '../../api/gen/desk'
import type { Cell, Day, Moment } from '../../api/gen/when'
import { useGrid } from '../../api/queries'
import { date, long, plural, weekday } from '../../api/times'
import { PhraseField, type Chosen } from '../../kit/phrase'

const examples = ['this evening', 'tomorrow', 'next week', 'in 3 days']
const parts = ['Morning', 'Midday', 'Evening']
const FULL = 6

/** When should it come back? In words first, or by a part of the week. */
export function SnoozeTray({ slip, onSnooze, onClose }: { slip: Slip; onSnooze: (m: Moment) => void; onClose: () => void }) {
  const { data: days } = useGrid()
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [example, setExample] = useState({ text: '', n: 0 })
  return (
    <div role="group" aria-label="Snooze" className="ebb grid grid-cols-[270px_minmax(0,1fr)] gap-6 border-b border-sand-200 bg-sand-0 px-[18px] pt-3.5 pb-3 max-[700px]:grid-cols-1 max-[700px]:gap-2" data-testid="snooze-tray">
      <div>
        <PhraseField
          id="snooze-phrase"
          label={slip.position.place === 'snoozed' ? `It comes back ${long(slip.position.return.at)}. When instead?` : 'When should it come back?'}
          placeholder="fri after lunch"
          autoFocus
          initial={example.text}
          clear={example.n}
          onChosen={setChosen}
          onAccept={(c) => onSnooze(c.moment)}
          onCancel={onClose}
        />
        <p className="flex flex-wrap gap-x-1.5 gap-y-1 text-[12px]">
          {examples.map((e) => (
            <button key={e} className="rounded-[5px] bg-sand-100 px-1.5 py-0.5 text-ink-700 hover:bg-sand-200" onClick={() => { setExample({ text: e, n: example.n + 1 }); document.getElementById('snooze-phrase')?.focus() }}>{e}</button>
          ))}
        </p>
      </div>
      <div className="min-w-0">
        <h2 className="mb-[5px] text-[11.5px] text-ink-500">Or pick a part of the week — bars are what already waits there</h2>
        {days && <WeekGrid days={days} chosen={chosen?.moment.at} onPick={onSnooze} />}
      </div>
    </div>
  )
}

/** The coming week by parts of the day, with what comes back and is due in each. */
function WeekGrid({ days, chosen, onPick }: { days: Day[]; chosen?: number; onPick: (m: Moment) => void }) {
  const grid = useRef<HTMLDivElement>(null)
  const move = (e: React.KeyboardEvent) => {
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key]
    const at = (e.target as HTMLElement).dataset.cell?.split(',').map(Number)
    if (!step || !at) return
    e.preventDefault()
    e.stopPropagation()
    for (let [p, d] = [at[0] + step[0], at[1] + step[1]]; p >= 0 && p < 3 && d >= 0 && d < 7; p += step[0], d += step[1]) {
      const cell = grid.current?.querySelector<HTMLButtonElement>(`[data-cell="${p},${d}"]:not(:disabled)`)
      if (cell) return cell.focus()
    }
  }
  const inside = (d: number, p: number) => {
    if (!chosen || chosen < days[d].start || (days[d + 1] && chosen >= days[d + 1].start) || (!days[d + 1] && chosen >= days[d].start + 86_400_000)) return false
    return (p === 0 || chosen >= days[d].cells[p].moment.at) && (p === 2 || chosen < days[d].cells[p + 1].moment.at)
  }
  return (
    <div ref={grid} role="group" aria-label="The coming week" onKeyDown={move} className="grid grid-cols-[64px_repeat(7,minmax(0,1fr))] gap-[3px] text-[11px] max-[700px]:grid-cols-[52px_repeat(7,minmax(0,1fr))]">
      <span />
      {days.map((d) => <span key={d.start} className="pb-px text-center font-semibold text-ink-500" title={date(d.start)}>{weekday(d.start)}</span>)}
      {parts.map((name, p) => [
        <span key={name} className="pr-1.5 text-right leading-[25px] text-ink-500">{name}</span>,
        ...days.map((d, i) => <GridCell key={`${p},${i}`} at={`${p},${i}`} name={name} cell={d.cells[p]} picked={inside(i, p)} onPick={onPick} />),
      ])}
    </div>
  )
}

function GridCell({ at, name, cell, picked, onPick }: { at: string; name: string; cell: Cell; picked: boolean; onPick: (m: Moment) => void }) {
  const load = cell.back + cell.due
  const full = load >= FULL
  const label = `${date(cell.moment.at)} ${name.toLowerCase()}, back ${long(cell.moment.at)}. ${load === 0 ? 'Nothing waits there.' : `${plural(cell.back, 'thing')} back, ${cell.due} due${full ? ': full' : ''}.`}`
  if (cell.past) return <span className="h-[25px] rounded-[5px] border border-dashed border-sand-200" />
  return (
    <button
      data-cell={at}
      aria-label={label}
      title={label}
      onClick={() => onPick(cell.moment)}
      className={`flex h-[25px] items-center justify-center gap-0.5 rounded-[5px] ${picked ? 'bg-fill' : full ? 'bg-coral-100' : 'bg-sand-100 hover:bg-tide-100'}`}
    >
      {load > 12 ? <b className={picked ? 'text-white' : 'text-coral-600'}>{load}</b> : Array.from({ length: load }, (_, i) => (
        <i key={i} className={`h-[11px] w-1 rounded-[1px] ${picked ? 'bg-white' : full ? 'bg-coral-600' : 'bg-tide-400'}`} />
      ))}
    </button>
  )
}
