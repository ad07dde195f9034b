import type { DayView, FiguresView } from '../../api/desk'
import { dateOf, weekdays } from '../../api/times'
import { Panel } from './panel'
import { sentences } from './sentences'

/** The days that ended at zero, five weeks of them as shells: whole ones are, plain ones are not, empty ones are days off. */
export function Zeros({ data, first }: { data: FiguresView; first: number }) {
  const names = weekdays('short')
  const long = (d: DayView) => `${dateOf(d.date)}: ${wordsFor(d, data.today)}`
  return (
    <Panel
      name={sentences.daysThatEndedAtZero}
      testid="zeros"
      file="days-that-ended-at-zero"
      says={sentences.zeroDays(data.zeros.days, data.zeros.of, data.run.run, data.run.longest)}
      behind={{
        head: [sentences.day, sentences.leftInTheEvening],
        rows: data.shells.filter((d) => d.date <= data.today).map((d) => [dateOf(d.date), wordsFor(d, data.today)]),
      }}
    >
      <div
        className="grid w-fit grid-cols-[repeat(7,24px)] items-center gap-x-1 gap-y-[5px]"
        role="list"
        aria-label={sentences.daysThatEndedAtZero}
      >
        {Array.from({ length: 7 }, (_, i) => (
          <span key={i} aria-hidden className="w-[19px] text-center text-[10.5px] text-ink-500">
            {names[(first + i) % 7].slice(0, 1)}
          </span>
        ))}
        {data.shells.map((d) => (
          <span key={d.date} role="listitem" aria-label={long(d)} title={long(d)} data-zero={isZero(d)}>
            {d.date > data.today ? (
              <span className="ml-[7px] block size-1 rounded-full bg-sand-200" />
            ) : (
              <Shell zero={isZero(d)} off={d.off} />
            )}
          </span>
        ))}
      </div>
    </Panel>
  )
}

const isZero = (d: DayView) => d.acted && d.left === 0

function wordsFor(d: DayView, today: string) {
  if (d.date > today) return sentences.stillToCome
  if (!d.acted) return d.off ? sentences.dayOff : sentences.nothingDone
  return d.left === 0 ? sentences.zero : sentences.left(d.left)
}

const Shell = ({ zero, off }: { zero: boolean; off: boolean }) => (
  <svg width="19" height="17" viewBox="0 0 19 17" aria-hidden>
    <path
      d="M1.5 15.5a8 8.4 0 0 1 16 0z"
      fill={zero ? 'var(--tide-200)' : off ? 'none' : 'var(--sand-100)'}
      stroke={zero ? 'var(--accent)' : 'var(--sand-300)'}
      strokeWidth={1.3}
    />
    {zero && <path d="M9.5 15V8M6 15l-1-5.5M13 15l1-5.5" stroke="var(--accent)" strokeWidth={1.1} fill="none" />}
  </svg>
)
