import { Link, useLocation, useNavigate } from 'react-router'
import { team } from '../../api/base'
import { useCommands } from '../../frame/commands'
import { cx } from '../../kit/cx'
import { sentences } from './sentences'

const views = [
  { path: '/numbers', name: sentences.theDays, own: false },
  { path: '/numbers/answers', name: sentences.answers, own: false },
  { path: '/numbers/people', name: sentences.people, own: false },
  { path: '/numbers/ahead', name: sentences.ahead, own: true },
  { path: '/numbers/review', name: sentences.review, own: true },
  { path: '/numbers/dig', name: sentences.dig, own: false },
]

/** The views of numbers, each a key away. */
export function Views() {
  const at = useLocation().pathname
  const navigate = useNavigate()
  const shown = views.filter((v) => !v.own || !team)
  useCommands(
    shown.map((v, i) => ({ id: 'view-' + v.path, name: v.name, keys: [String(i + 1)], run: () => navigate(v.path) })),
  )
  return (
    <nav aria-label={sentences.numbers} className="mb-2.5 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
      {shown.map((v, i) => (
        <Link
          key={v.path}
          to={v.path}
          aria-current={v.path === at ? 'page' : undefined}
          className={cx(
            'flex items-baseline gap-1.5 border-b-2 pb-0.5',
            v.path === at ? 'border-accent font-[650]' : 'border-transparent text-ink-500 hover:text-ink-900',
          )}
        >
          {v.name}
          <kbd className="text-[11px] text-ink-500 max-[700px]:hidden">{i + 1}</kbd>
        </Link>
      ))}
    </nav>
  )
}
