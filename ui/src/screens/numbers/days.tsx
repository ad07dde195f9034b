import { scaleLinear } from 'd3-scale'
import type { DayView, FiguresView } from '../../api/desk'
import { digits } from '../../api/digits'
import { dateOf, weekdayOf } from '../../api/times'
import { Panel } from './panel'
import { sentences } from './sentences'

const WIDTH = 360
const HEIGHT = 118
const MOST = 14 // bars, above which weeks stand together

interface Bar {
  name: string
  came: number
  decided: number
}

/** What came and what was decided, day by day, or week by week where there are many. */
export function Days({ data }: { data: FiguresView }) {
  const byWeek = data.days.length > MOST
  const bars: Bar[] = byWeek ? weeks(data.days) : data.days.map((d) => ({ ...d, name: weekdayOf(d.date) }))
  const y = scaleLinear([0, Math.max(1, ...bars.flatMap((b) => [b.came, b.decided]))], [0, HEIGHT - 26])
  const wide = (WIDTH - 8) / Math.max(1, bars.length)
  const best = [...bars].sort((a, b) => b.decided - a.decided)[0]
  const every = Math.ceil(bars.length / 9)
  return (
    <Panel
      name={byWeek ? sentences.weekByWeek : sentences.dayByDay}
      testid="days"
      file="day-by-day"
      says={best?.decided ? sentences.mostDecided(best.name, digits(best.decided), byWeek) : sentences.nothingDecided}
      behind={{
        head: [sentences.day, sentences.cameIn, sentences.decisions, sentences.leftInTheEvening],
        rows: data.days.map((d) => [dateOf(d.date), d.came, d.decided, d.acted ? d.left : '']),
      }}
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-[440px]" aria-hidden>
        {bars.map((b, i) => (
          <g key={i} transform={`translate(${4 + i * wide},${HEIGHT - 18})`}>
            <title>{sentences.bar(b.name, b.came, b.decided)}</title>
            <rect x={wide * 0.1} width={wide * 0.8} y={-y(b.came)} height={y(b.came)} rx={2} fill="var(--sand-300)" />
            <rect
              x={wide * 0.28}
              width={wide * 0.44}
              y={-y(b.decided)}
              height={y(b.decided)}
              rx={2}
              fill="var(--accent)"
            />
            {i % every === 0 && (
              <text x={wide / 2} y={14} fontSize={10.5} fill="var(--ink-500)" textAnchor="middle">
                {b.name}
              </text>
            )}
          </g>
        ))}
      </svg>
    </Panel>
  )
}

/** Sums of seven days each. */
function weeks(days: DayView[]): Bar[] {
  const out: Bar[] = []
  days.forEach((d, i) => {
    if (i % 7 === 0) out.push({ name: dateOf(d.date).replace(/^\w+ /, ''), came: 0, decided: 0 })
    const b = out[out.length - 1]
    b.came += d.came
    b.decided += d.decided
  })
  return out
}
