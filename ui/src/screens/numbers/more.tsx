import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { FiguresView } from '../../api/desk'
import type { Figures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { plural, span } from '../../api/times'
import { linesOf, noticesOf, type Opened } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import { of } from './sorts'

export const TextLink = ({ to, className = '', children }: { to: string; className?: string; children: ReactNode }) => (
  <Link to={to} className={`text-accent underline-offset-2 hover:underline ${className}`}>
    {children}
  </Link>
)

const HOUR = 3_600_000

interface Row {
  name: string
  n: (f: Figures) => number
  opens?: Omit<Opened, 'from' | 'to' | 'name'> // how its lines are asked for; none: they are notifications
}

const rows: { title: string; rows: Row[] }[] = [
  {
    title: sentences.mail,
    rows: [
      {
        name: sentences.cameIn,
        n: (f) => f.came,
        opens: { measure: 'came', details: ['arrive', 'deliver', 'let-in', 'let-all-in', 'return'] },
      },
      { name: sentences.withRounds, n: (f) => of(f.how, 'deliver'), opens: { measure: 'came', details: ['deliver'] } },
      {
        name: sentences.lookedEarly,
        n: (f) => of(f.early, 'let-in', 'let-all-in', 'peek'),
        opens: { measure: 'early' },
      },
      { name: sentences.sent, n: (f) => f.sent, opens: { measure: 'sent' } },
      { name: sentences.junkCaught, n: (f) => of(f.junk, 'caught'), opens: { measure: 'junk', details: ['caught'] } },
      { name: sentences.junkMissed, n: (f) => of(f.junk, 'missed'), opens: { measure: 'junk', details: ['missed'] } },
      { name: sentences.junkWrong, n: (f) => of(f.junk, 'wrong'), opens: { measure: 'junk', details: ['wrong'] } },
      { name: sentences.listsLeft, n: (f) => f.lists, opens: { measure: 'lists' } },
      { name: sentences.notifications, n: (f) => f.notices },
    ],
  },
  {
    title: sentences.decisions,
    rows: [
      { name: sentences.byYou, n: (f) => of(f.by, 'person'), opens: { measure: 'decided', by: 'person' } },
      { name: sentences.byRules, n: (f) => of(f.by, 'rule'), opens: { measure: 'decided', by: 'rule' } },
      { name: sentences.byClock, n: (f) => of(f.by, 'clock'), opens: { measure: 'decided', by: 'clock' } },
      { name: sentences.byOthers, n: (f) => of(f.by, 'server'), opens: { measure: 'decided', by: 'server' } },
      { name: sentences.atFirstSight, n: (f) => f.atFirst, opens: { measure: 'at-first' } },
      {
        name: sentences.snoozedFirst,
        n: (f) => of(f.rested, 'first'),
        opens: { measure: 'snoozed', details: ['first'] },
      },
      {
        name: sentences.snoozedAgain,
        n: (f) => of(f.rested, 'again'),
        opens: { measure: 'snoozed', details: ['again'] },
      },
      {
        name: sentences.thirdTime,
        n: (f) => of(f.rested, 'often'),
        opens: { measure: 'snoozed', details: ['often'] },
      },
      { name: sentences.takenBack, n: (f) => f.undone, opens: { measure: 'undone' } },
      { name: sentences.rulesTakenBack, n: (f) => f.ruleBack, opens: { measure: 'undone', by: 'rule' } },
    ],
  },
  {
    title: sentences.followUps,
    rows: [
      { name: sentences.made, n: (f) => of(f.work, 'made'), opens: { measure: 'work', details: ['made'] } },
      {
        name: sentences.inTime,
        n: (f) => of(f.work, 'in-time', 'done'),
        opens: { measure: 'work', details: ['in-time', 'done'] },
      },
      { name: sentences.late, n: (f) => of(f.work, 'late'), opens: { measure: 'work', details: ['late'] } },
      { name: sentences.moved, n: (f) => of(f.work, 'moved'), opens: { measure: 'work', details: ['moved'] } },
      { name: sentences.dropped, n: (f) => of(f.work, 'dropped'), opens: { measure: 'work', details: ['dropped'] } },
      { name: sentences.waitsEnded, n: (f) => f.waited.n, opens: { measure: 'waited' } },
      { name: sentences.askedAgain, n: (f) => of(f.work, 'asked'), opens: { measure: 'work', details: ['asked'] } },
    ],
  },
]

/** All other numbers of a stretch beside the one before it; each opens to the lines that it counts. */
export function More({ data }: { data: FiguresView }) {
  const { is, before } = data
  const stretch = { from: data.from, to: data.to }
  const looks = is.own ? Math.round((10 * is.looks) / is.own) / 10 : 0
  const sat = data.sittings.reduce((n, s) => n + s.minutes, 0)
  const steps = data.sittings.reduce((n, s) => n + s.decided, 0)
  const cut = data.sittings.reduce((n, s) => n + s.interrupted, 0)
  return (
    <Panel
      name={sentences.allNumbers}
      testid="more"
      className="col-span-full"
      file="numbers"
      says={[
        is.stood.n ? sentences.stood(span(is.stood.median * HOUR), span(is.stood.ninety * HOUR)) : '',
        is.own ? sentences.looks(looks, Math.round((100 * is.atFirst) / is.own)) : '',
        data.sittings.length ? sentences.sat(plural(data.sittings.length, sentences.sitting), sat, steps, cut) : '',
      ]
        .filter(Boolean)
        .join(' ')}
      behind={{
        head: [sentences.whatIsCounted, sentences.these, sentences.theOnesBefore],
        rows: rows.flatMap((g) => g.rows.map((r) => [r.name, r.n(is), data.known ? r.n(before) : ''])),
      }}
    >
      <div className="grid grid-cols-3 gap-x-6 gap-y-4 max-[900px]:grid-cols-1">
        {rows.map((g) => (
          <table key={g.title} className="h-fit w-full border-collapse text-[12.5px]">
            <thead>
              <tr className="border-b border-sand-300 text-[11.5px] text-ink-500">
                <th scope="col" className="py-0.5 text-left font-[650]">
                  {g.title}
                </th>
                <th scope="col" className="w-16 text-right font-normal">
                  {sentences.these}
                </th>
                <th scope="col" className="w-16 text-right font-normal">
                  {data.known ? sentences.theOnesBefore : ''}
                </th>
              </tr>
            </thead>
            <tbody>
              {g.rows.map((r) => (
                <tr key={r.name} className="border-b border-sand-100">
                  <th scope="row" className="py-[3px] text-left font-normal">
                    {r.name}
                  </th>
                  <td className="text-right tabular-nums">
                    {r.n(is) > 0 ? (
                      <TextLink to={r.opens ? linesOf({ ...r.opens, ...stretch, name: r.name }) : noticesOf(stretch)}>
                        {digits(r.n(is))}
                      </TextLink>
                    ) : (
                      0
                    )}
                  </td>
                  <td className="text-right text-ink-500 tabular-nums">{data.known ? digits(r.n(before)) : ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ))}
      </div>
    </Panel>
  )
}
