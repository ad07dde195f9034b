import { Link } from 'react-router'
import type { Figures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { weekdays } from '../../api/times'
import { linesOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import type { Stretch } from './stretch'

const shades = ['', 'bg-tide-50', 'bg-tide-100', 'bg-tide-200', 'bg-tide-400', 'bg-fill']

/** The reader's decisions by day of the week and hour, as a small grid: its cells open to what they count. */
export function Hours({ is, stretch, first }: { is: Figures; stretch: Stretch; first: number }) {
  const days = Array.from({ length: 7 }, (_, i) => (first + i) % 7)
  const names = weekdays('short')
  const long = weekdays('long')
  const any = (h: number) => is.hours.some((d) => d[h] > 0)
  const from = Math.min(7, ...Array.from({ length: 24 }, (_, h) => (any(h) ? h : 24)))
  const to = Math.max(18, ...Array.from({ length: 24 }, (_, h) => (any(h) ? h : 0)))
  const hours = Array.from({ length: to - from + 1 }, (_, i) => from + i)
  const most = Math.max(1, ...is.hours.flat())
  let best = { day: 0, hour: 0, n: 0 }
  is.hours.forEach((row, day) => row.forEach((n, hour) => n > best.n && (best = { day, hour, n })))
  const shade = (n: number) => shades[n ? Math.min(5, 1 + Math.floor((4.99 * n) / most)) : 0]
  return (
    <Panel
      name={sentences.whenYouDecide}
      testid="hours"
      file="when-you-decide"
      says={best.n ? sentences.mostAt(long[best.day], best.hour, digits(best.n)) : sentences.nothingDecided}
    >
      <table
        className="w-full table-fixed border-separate border-spacing-[2px] text-[10.5px]"
        aria-label={sentences.whenYouDecide}
      >
        <thead>
          <tr className="text-ink-500">
            <th className="w-8">
              <span className="sr-only">{sentences.day}</span>
            </th>
            {hours.map((h) => (
              <th key={h} scope="col" className="font-normal tabular-nums">
                <span className={h % 3 ? 'sr-only' : ''}>{h}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {days.map((d) => (
            <tr key={d}>
              <th scope="row" className="text-left font-normal text-ink-500">
                {names[d]}
              </th>
              {hours.map((h) => {
                const n = is.hours[d][h]
                return (
                  <td key={h} className="p-0">
                    {n > 0 ? (
                      <Link
                        to={linesOf({
                          measure: 'decided',
                          by: 'person',
                          weekday: d,
                          hour: h,
                          ...stretch,
                          name: sentences.decidedAt(long[d], h),
                        })}
                        title={sentences.at(long[d], h, digits(n))}
                        className={`block h-[15px] rounded-[3px] ${shade(n)}`}
                      >
                        <span className="sr-only">{n}</span>
                      </Link>
                    ) : (
                      <span className="block h-[15px] rounded-[3px] bg-sand-100" />
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  )
}
