import { useQuery } from '@tanstack/react-query'
import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'
import { get } from '../../api/client'
import type { DayCurve } from '../../api/desk'
import { clockOf, dayOfWeek, weekdays } from '../../api/times'
import { Panel } from './panel'
import { sentences } from './sentences'

const WIDTH = 360
const HEIGHT = 118
const FROM = 12 // the half hour with which the picture begins: 6:00

/** How many were left to decide in the course of a day, beside such a day as it usually is. */
export function DayOf({ date, today }: { date: string; today: boolean }) {
  const { data } = useQuery({
    queryKey: ['figures', 'day', date],
    queryFn: () => get<DayCurve>('/figures/day?date=' + date),
    staleTime: 0,
  })
  if (!data) return null
  const x = scaleLinear([FROM, 48], [8, WIDTH - 8])
  const y = scaleLinear([0, Math.max(1, ...data.is, ...data.usual)], [HEIGHT - 18, 6])
  const cut = (all: number[]) => all.map((n, i) => [i, n] as const).filter(([i]) => i + 1 >= FROM)
  const path = (all: number[]) =>
    line<readonly [number, number]>(
      ([i]) => x(i + 1),
      ([, n]) => y(n),
    )(cut(all)) ?? ''
  const name = weekdays('long')[dayOfWeek(date)]
  const last = data.is.length - 1
  const usual = data.usual[last]
  return (
    <Panel
      name={today ? sentences.todayAgainst(name) : sentences.dayAgainst(name)}
      testid="day"
      file={'left-to-decide-' + date}
      says={
        last < 0
          ? sentences.notYet
          : data.usual.length
            ? today && last < 47
              ? sentences.nowAgainstUsual(data.is[last], usual, data.weeks)
              : sentences.againstUsual(data.is[last], usual, clockOf((last + 1) * 30), data.weeks)
            : sentences.fewSuchDays(data.is[last])
      }
      behind={{
        head: [sentences.time, sentences.leftToDecide, sentences.usually],
        rows: Array.from({ length: 48 }, (_, i) => [
          clockOf((i + 1) * 30),
          data.is[i] ?? '',
          data.usual[i] ?? '',
        ]).slice(FROM - 1),
      }}
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-[440px]" aria-hidden>
        <path d={path(data.usual)} fill="none" stroke="var(--sand-300)" strokeWidth={6} strokeLinejoin="round" />
        <path d={path(data.is)} fill="none" stroke="var(--accent)" strokeWidth={2.4} strokeLinejoin="round" />
        {last + 1 >= FROM && last < 47 && (
          <circle cx={x(last + 1)} cy={y(data.is[last])} r={4} fill="var(--coral-600)" />
        )}
        {[6, 10, 14, 18, 22].map((h) => (
          <text key={h} x={x(h * 2)} y={HEIGHT - 3} fontSize={10.5} fill="var(--ink-500)" textAnchor="middle">
            {h}
          </text>
        ))}
      </svg>
    </Panel>
  )
}
