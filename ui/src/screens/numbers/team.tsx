import type { FiguresView } from '../../api/desk'
import { digits } from '../../api/digits'
import { minutes } from '../../api/times'
import { Ages } from './ages'
import { Panel } from './panel'
import { sentences } from './sentences'

/** What only a team has numbers of: what nobody has, and how much of what is due today each has. */
export const Team = ({ data }: { data: FiguresView }) => (
  <>
    <Ages name={sentences.nobodyHas} counts={data.unowned} of="unowned" testid="unowned" file="unowned" />
    <Panel
      name={sentences.dueToday}
      testid="loads"
      file="due-today"
      says={sentences.dueTodayHint}
      behind={{
        head: [sentences.member, sentences.openOnes, sentences.dueMinutes, sentences.usuallyDone],
        rows: data.loads.map((l) => [l.name, l.open, l.today, l.usual]),
      }}
    >
      <ul>
        {data.loads.map((l) => (
          <li key={l.name} className="flex items-baseline gap-3 border-b border-sand-200 py-1 text-[12.5px]">
            <span className="min-w-0 flex-1 truncate">{l.name}</span>
            <span className="text-ink-500">{sentences.openCount(digits(l.open))}</span>
            <span className={l.today > l.usual ? 'font-semibold text-coral-600' : ''}>
              {sentences.ofUsual(minutes(l.today), minutes(l.usual))}
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  </>
)
