import type { Figures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { span } from '../../api/times'
import { TextLink } from './more'
import { linesOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import type { Stretch } from './stretch'

const HOUR = 3_600_000

/** By what mail is let through, in words. */
const whys: Record<string, string> = {
  sender: sentences.bySender,
  domain: sentences.byTheirDomain,
  own: sentences.byOwn,
  words: sentences.byWords,
  written: sentences.byWritten,
  waited: sentences.byWaited,
  importance: sentences.byImportance,
  code: sentences.byCode,
  rule: sentences.byRule,
}

/** How long mail was held before it came in, and what was let through meanwhile. */
export function HeldMail({ is, stretch }: { is: Figures; stretch: Stretch }) {
  const why = (sort: string) => whys[sort] ?? sentences.byWhatIsGone
  const through = is.through.reduce((n, p) => n + p.n, 0)
  const rows = [
    ...(is.held.n ? [{ name: sentences.cameLater, n: is.held.n, measure: 'held', details: [] as string[] }] : []),
    ...is.through.map((p) => ({
      name: sentences.whyThrough(why(p.sort)),
      n: p.n,
      measure: 'through',
      details: [p.sort],
    })),
  ]
  return (
    <Panel
      name={sentences.heldMail}
      testid="held"
      file="held"
      says={[
        is.held.n
          ? sentences.heldFor(digits(is.held.n), span(is.held.median * HOUR), span(is.held.ninety * HOUR))
          : sentences.nothingHeld,
        through > 0 && sentences.wereLetThrough(digits(through)),
      ]
        .filter(Boolean)
        .join(' ')}
      behind={{ head: [sentences.whatIsCounted, sentences.counted], rows: rows.map((r) => [r.name, r.n]) }}
    >
      <ul>
        {rows.map((r) => (
          <li
            key={r.measure + r.details.join()}
            className="flex items-baseline gap-2 border-b border-sand-100 py-[3px] text-[12.5px]"
          >
            <span className="min-w-0 flex-1 truncate">{r.name}</span>
            <TextLink
              className="tabular-nums"
              to={linesOf({ measure: r.measure, details: r.details, ...stretch, name: r.name })}
            >
              {digits(r.n)}
            </TextLink>
          </li>
        ))}
      </ul>
    </Panel>
  )
}
