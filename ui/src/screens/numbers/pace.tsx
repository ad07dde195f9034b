import { scaleSqrt } from 'd3-scale'
import type { Figures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { TextLink } from './more'
import { linesOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import { fateOf } from './sorts'
import type { Stretch } from './stretch'

const SHOWN = 6

/** How long decisions take, by kind: from the quickest tenth to the slowest, with the middle of them. */
export function Pace({ is, stretch }: { is: Figures; stretch: Stretch }) {
  const paces = is.paces.slice(0, SHOWN)
  const x = scaleSqrt([0, Math.max(10, ...paces.map((p) => p.ninety))], [0, 100])
  const name = (kind: string) => (fateOf(kind).id === 'else' ? kind : fateOf(kind).name)
  return (
    <Panel
      name={sentences.howLongItTakes}
      testid="pace"
      file="how-long-it-takes"
      says={
        is.took.n ? sentences.halfWithin(is.took.median, is.took.ninety, digits(is.took.n)) : sentences.tooFewDecisions
      }
      behind={{
        head: [sentences.decision, sentences.counted, sentences.halfInSeconds, sentences.nineOfTen],
        rows: is.paces.map((p) => [name(p.sort), p.n, p.median, p.ninety]),
      }}
    >
      <ul>
        {paces.map((p) => (
          <li key={p.sort} className="flex items-center gap-2 py-[3px] text-[12.5px]">
            <TextLink
              className="w-24 shrink-0 truncate"
              to={linesOf({ measure: 'took', details: [p.sort], ...stretch, name: sentences.timed(name(p.sort)) })}
            >
              {name(p.sort)}
            </TextLink>
            <span className="relative h-3 min-w-0 flex-1" aria-hidden>
              <span
                className="absolute inset-y-[4px] rounded-full bg-tide-200"
                style={{ left: `${x(p.tenth)}%`, width: `${Math.max(1, x(p.ninety) - x(p.tenth))}%` }}
              />
              <span className="absolute inset-y-0 w-[3px] rounded bg-accent" style={{ left: `${x(p.median)}%` }} />
            </span>
            <span className="w-24 shrink-0 text-right text-ink-500 tabular-nums">
              {sentences.seconds(p.median, p.ninety)}
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  )
}
