import { BookmarkSimpleIcon, ChartBarIcon } from '@phosphor-icons/react'
import { Link, useLocation } from 'react-router'
import type { SavedList } from '../api/desk'
import { digits } from '../api/digits'
import { useDayline, useSavedLists } from '../api/queries'
import { cx } from '../kit/cx'
import { Place } from './frame'
import { sentences } from './sentences'

/** Where what is on a saved list is shown: as what was asked for in Find, or as the inbox filtered by it. */
const placeOf = (l: SavedList) =>
  l.asked ? '/find?asked=' + encodeURIComponent(l.asked) : '/?where=' + encodeURIComponent(JSON.stringify(l.query))

/** The saved lists that stand on the rail. */
function useCounted() {
  const some = !!useDayline().data?.lists
  const { data } = useSavedLists(some) // they are counted after each decision: only for whoever has some
  return some ? (data ?? []).filter((l) => l.counted) : []
}

/** On a narrow screen: the saved lists of the rail, among the places that have no room in it. */
export const FoldedCounted = ({ done }: { done: () => void }) =>
  useCounted().map((l) => (
    <li key={l.id}>
      <Link
        to={placeOf(l)}
        data-testid="folded-list"
        className="flex items-baseline gap-3 rounded-[9px] px-3 py-2.5 hover:bg-sand-100"
        onClick={done}
      >
        <span className="min-w-0 flex-1 truncate">{l.name}</span>
        <span className="flex-none text-[12px] text-ink-500">{digits(l.count)}</span>
      </Link>
    </li>
  ))

/** The saved lists that stand on the rail, with how much is on them. */
export function Counted() {
  const { pathname, search } = useLocation()
  const review = useDayline().data?.review
  const lists = useCounted().map((l) => (
    <Link
      key={l.id}
      to={placeOf(l)}
      title={l.name}
      data-testid="counted-list"
      aria-current={pathname + search === placeOf(l) ? 'page' : undefined}
      className={cx(
        'relative flex min-w-0 flex-col items-center gap-[3px] rounded-[10px] pt-2 pb-[7px] text-[11px]',
        'text-ink-500 hover:bg-sand-200/60 max-[700px]:hidden',
      )}
    >
      {l.count > 0 && (
        <span className="absolute top-1 right-1.5 text-[10.5px] font-bold text-ink-700">
          {l.count > 999 ? '999+' : digits(l.count)}
        </span>
      )}
      <BookmarkSimpleIcon size={20} aria-hidden />
      <span className="w-full truncate px-0.5 text-center">{l.name}</span>
    </Link>
  ))
  return (
    <>
      {lists}
      <Place fold to="/numbers" name={sentences.numbers} icon={<ChartBarIcon size={20} />} count={review ? 1 : 0} />
    </>
  )
}
