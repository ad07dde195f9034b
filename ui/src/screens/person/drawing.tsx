import type { AnswerTime, PersonMonth } from '../../api/desk'
import { clockOf, long, span } from '../../api/times'
import { sentences } from './sentences'

const HOUR = 3_600_000
const marks = [
  [HOUR, sentences.hour],
  [4 * HOUR, sentences.fourHours],
  [24 * HOUR, sentences.day],
  [72 * HOUR, sentences.threeDays],
  [168 * HOUR, sentences.week],
  [720 * HOUR, sentences.month],
] as const
const LONGEST = 60 * 24 * HOUR
const SHORTEST = HOUR / 4

/** Where a time stands on the scale, in parts of its width: each doubling is as wide. */
export const across = (ms: number) =>
  Math.log(Math.min(Math.max(ms, SHORTEST), LONGEST) / SHORTEST) / Math.log(LONGEST / SHORTEST)

/** How long each answer took, a dot each: the reader's above, the other's below. */
export function Dots({ own, theirs }: { own: AnswerTime[]; theirs: AnswerTime[] }) {
  return (
    <div className="max-w-[660px] text-[11.5px] text-ink-500">
      {(
        [
          [sentences.you, own, 'bg-tide-400'],
          [sentences.they, theirs, 'bg-plum-600'],
        ] as const
      ).map(([who, taken, ground]) => (
        <div key={who} className="flex h-9 items-center">
          <span className="w-12 shrink-0">{who}</span>
          <ul className="relative h-full flex-1" aria-label={sentences.answersOf(who, taken.length)}>
            {taken.map((t) => (
              <li
                key={t.at}
                title={`${span(t.took)}, ${long(t.at)}`}
                className={`absolute top-1/2 size-2 -translate-1/2 rounded-full ${ground} opacity-80`}
                style={{ left: `${100 * across(t.took)}%` }}
              >
                <span className="sr-only">{`${span(t.took)}, ${long(t.at)}`}</span>
              </li>
            ))}
          </ul>
        </div>
      ))}
      <div className="relative ml-12 h-6 border-t border-sand-300" aria-hidden>
        {marks.map(([at, name]) => (
          <span
            key={name}
            className={`absolute top-1 -translate-x-1/2 whitespace-nowrap ${at === 72 * HOUR || at === 720 * HOUR ? 'max-[700px]:hidden' : ''}`}
            style={{ left: `${100 * across(at)}%` }}
          >
            {name}
          </span>
        ))}
      </div>
    </div>
  )
}

/** Messages of each month, what came above and what went below. */
export function Months({ months }: { months: PersonMonth[] }) {
  const most = Math.max(1, ...months.map((m) => Math.max(m.received, m.sent)))
  const height = (n: number) => ({ height: n ? Math.max(3, Math.round((36 * n) / most)) : 0 })
  return (
    <table className="w-full max-w-[660px] table-fixed border-collapse text-[11.5px] text-ink-500">
      <thead className="sr-only">
        <tr>
          {months.map((m) => (
            <th key={m.name} scope="col">
              {m.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {(['received', 'sent'] as const).map((way) => (
          <tr key={way} className={way === 'received' ? 'align-bottom' : 'align-top'}>
            {months.map((m) => (
              <td key={m.name} className="h-[38px] px-[3px]" title={`${m.name}: ${m[way]} ${words[way]}`}>
                <span
                  aria-hidden
                  className={`block ${way === 'received' ? 'bg-plum-600/60' : 'mt-[3px] bg-tide-400'}`}
                  style={height(m[way])}
                />
                <span className="sr-only">{`${m[way]} ${words[way]}`}</span>
              </td>
            ))}
          </tr>
        ))}
        <tr aria-hidden>
          {months.map((m, i) => (
            <td key={m.name} className="px-[3px]">
              {i === 0 || i === months.length - 1 ? m.name.slice(0, 3) : ''}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  )
}

const words = { received: sentences.fromThem, sent: sentences.fromYou }

const WINDOW = 3 // hours
const FEW = 5 // answers, below which nothing is said of hours

/** The three hours of the day in which most answers came, if most did, as "9:00" and "12:00". */
export function bestHours(hours: number[]): [string, string] | undefined {
  const all = hours.reduce((a, b) => a + b, 0)
  const within = hours.map((_, h) => hours.slice(h, h + WINDOW).reduce((a, b) => a + b, 0))
  const best = within.findLastIndex((n, h) => n === Math.max(...within) && hours[h] > 0)
  return all >= FEW && 2 * within[best] >= all
    ? [clockOf(60 * best), clockOf(60 * Math.min(24, best + WINDOW))]
    : undefined
}

/** How many of their answers came in each hour of the day. */
export function HoursOfDay({ hours }: { hours: number[] }) {
  const most = Math.max(1, ...hours)
  return (
    <ul
      aria-label={sentences.whenTheyAnswer}
      className="mb-2 ml-12 flex h-9 max-w-[612px] items-end gap-px text-[10px] text-ink-500"
    >
      {hours.map((n, h) => (
        <li key={h} className="min-w-0 flex-1 text-center" title={sentences.hourOf(clockOf(60 * h), n)}>
          <span
            aria-hidden
            className={'block rounded-t-[2px] ' + (n ? 'bg-plum-600/70' : 'bg-sand-200')}
            style={{ height: n ? Math.max(3, (18 * n) / most) : 1 }}
          />
          <span aria-hidden className={h % 6 ? 'invisible' : ''}>
            {h}
          </span>
          <span className="sr-only">{sentences.hourOf(clockOf(60 * h), n)}</span>
        </li>
      ))}
    </ul>
  )
}
