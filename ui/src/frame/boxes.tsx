import { ChatsCircleIcon, UserIcon, UsersThreeIcon } from '@phosphor-icons/react'
import { Link, NavLink, useNavigate } from 'react-router'
import type { BoxView } from '../api/desk'
import { digits } from '../api/digits'
import { useBoxes } from '../api/queries'
import { cx } from '../kit/cx'
import { flush } from './address'
import { FRAME, useCommands } from './commands'
import { sentences } from './sentences'

/** Where a box is: its pages are its own, so going there loads one. */
const addressOf = (b: BoxView) => (b.name ? `/in/${b.id}/` : '/')
const nameOf = (b: BoxView) => b.name || sentences.yourOwnBox

/** The boxes one works in, if there are several; they are gone to by keys and by name. */
function useOthers() {
  const { data } = useBoxes()
  const boxes = data ?? []
  const at = boxes.findIndex((b) => b.here)
  const others = boxes.length > 1 ? boxes.filter((b) => !b.here) : []
  const go = (b: BoxView) => {
    flush()
    window.location.assign(addressOf(b))
  }
  const by = (n: number) => go(boxes[(at + n + boxes.length) % boxes.length]!)
  const unheard = boxes.reduce((n, b) => n + b.unheard, 0)
  return { others, go, by, unheard }
}

/** On the rail: the other boxes one works in, with what is left to decide in each. */
export function Boxes() {
  const { others, go, by, unheard } = useOthers()
  const navigate = useNavigate()
  useCommands(
    others.length
      ? [
          { id: 'next-box', run: () => by(1) },
          { id: 'previous-box', run: () => by(-1) },
          { id: 'go-activity', run: () => void navigate('/activity') },
          { id: 'go-mine', run: () => void navigate('/mine') },
          ...others.map((b) => ({ id: 'box-' + b.id, name: sentences.goToBox(nameOf(b)), run: () => go(b) })),
        ]
      : [],
    FRAME,
  )
  if (!others.length) return null
  return (
    <>
      <NavLink
        to="/activity"
        className={({ isActive }) =>
          cx(tile, isActive ? 'bg-sand-0 font-[650] text-tide-800 shadow-[inset_3px_0_0_var(--fill)]' : quiet)
        }
      >
        <Number n={unheard} />
        <ChatsCircleIcon size={20} aria-hidden />
        {sentences.activity}
      </NavLink>
      {others.map((b) => (
        <a
          key={b.id}
          href={addressOf(b)}
          onClick={flush}
          title={nameOf(b)}
          data-testid="box"
          className={cx(tile, quiet)}
        >
          <Number n={b.left} />
          {b.name ? <UsersThreeIcon size={20} aria-hidden /> : <UserIcon size={20} aria-hidden />}
          <span className="w-full truncate px-0.5 text-center">{nameOf(b)}</span>
        </a>
      ))}
    </>
  )
}

const tile =
  'relative flex min-w-0 flex-col items-center gap-[3px] rounded-[10px] pt-2 pb-[7px] text-[11px] max-[700px]:hidden'
const quiet = 'text-ink-500 hover:bg-sand-200/60'

const Number = ({ n }: { n: number }) =>
  n > 0 && (
    <span className="absolute top-1 right-1.5 text-[10.5px] font-bold text-ink-700">
      {n > 999 ? '999+' : digits(n)}
    </span>
  )

/** On a narrow screen: the other boxes, among the places that have no room on the rail. */
export function FoldedBoxes({ done }: { done: () => void }) {
  const { others, unheard } = useOthers()
  const line = 'flex items-baseline gap-3 rounded-[9px] px-3 py-2.5 hover:bg-sand-100'
  return (
    <>
      {others.length > 0 && (
        <li>
          <Link to="/activity" className={line} onClick={done}>
            <span className="min-w-0 flex-1 truncate">{sentences.activity}</span>
            <span className="flex-none text-[12px] text-ink-500">{digits(unheard)}</span>
          </Link>
        </li>
      )}
      {others.map((b) => (
        <li key={b.id}>
          <a href={addressOf(b)} onClick={flush} data-testid="folded-box" className={line}>
            <span className="min-w-0 flex-1 truncate">{nameOf(b)}</span>
            <span className="flex-none text-[12px] text-ink-500">{digits(b.left)}</span>
          </a>
        </li>
      ))}
    </>
  )
}

/** At the top in the box of a team: which one, and with whom. */
export function TeamHead() {
  const { data } = useBoxes()
  const here = data?.find((b) => b.here)
  const names = here?.with.map((n) => n.split(' ')[0]).join(', ')
  return (
    <div className="min-w-0 max-[700px]:pl-2" data-testid="team-head">
      <b className="block truncate text-[16px] tracking-[-.01em]" title={here?.name}>
        {here?.name ?? ''}
      </b>
      <span className="block truncate text-[12px] opacity-80" title={names}>
        {here ? names || sentences.nobodyElseYet : ''}
      </span>
    </div>
  )
}

/** Instead of a screen: the box of this address is none that one works in, or not any more. */
export function NoMember() {
  return (
    <div className="px-[22px] py-5" data-testid="no-member">
      <h1 className="mb-2 text-[20px] font-[650]">{sentences.notInThisTeam}</h1>
      <p className="mb-3 max-w-xl text-ink-500">{sentences.whoLooksAfterCanAdd}</p>
      <a href="/" className="text-accent underline">
        {sentences.toYourOwnBox}
      </a>
    </div>
  )
}
