import type { PersonMonth } from '../../api/desk'
import type { Taken } from '../../api/gen/numbers'
import { long, span } from '../../api/times'
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
export function Dots({ own, theirs }: { own: Taken[]; theirs: Taken[] }) {
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
