import {
  BellSimpleIcon,
  BookmarkSimpleIcon,
  CaretDownIcon,
  CaretRightIcon,
  CaretUpIcon,
  XIcon,
} from '@phosphor-icons/react'
import { memo } from 'react'
import { Link, useNavigate } from 'react-router'
import { post, put } from '../../api/client'
import type { SavedList } from '../../api/desk'
import { client, useDayline, useSavedLists } from '../../api/queries'
import { useSlip } from '../../api/slips'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { IconButton, Opener } from '../../kit/button'
import { LineButton } from '../../kit/pieces'
import { sentences } from './sentences'

/** Something that waits elsewhere, with how much. */
const Line = ({ to, name, n, testid }: { to: string; name: string; n: number; testid: string }) => (
  <Link
    to={to}
    className="flex flex-auto gap-2 px-3.5 py-[5px] text-[12px] font-semibold hover:bg-sand-200"
    data-testid={testid}
  >
    {name} <span className="font-normal text-ink-500">{n}</span>
  </Link>
)

/** A rule, still to be saved, by which one hears of what is new on a list. */
const ruleOf = (name: string) =>
  '/rules/new?words=' + encodeURIComponent(`saved “${name.replace(/["“”„«»]/g, '')}”: notify`)

/** The user's own lists below the queue: folded to a line each, or open. */
export const Strips = memo(function Strips({ show, shown }: { show: (id: number) => void; shown?: number }) {
  const { data: lists } = useSavedLists()
  const { say } = useDesk()
  const navigate = useNavigate()
  const change = (l: SavedList, c: Partial<SavedList>) => {
    client.setQueryData<SavedList[]>(['lists'], (all) => all?.map((x) => (x.id === l.id ? { ...x, ...c } : x)))
    return put('/lists', { ...l, ...c, slips: [] })
      .then(() => client.invalidateQueries({ predicate: (q) => ['lists', 'dayline'].includes(String(q.queryKey[0])) }))
      .catch((e: Error) => say({ text: e.message, wrong: true }))
  }
  const raise = (i: number) => {
    const order = [...lists!]
    order.splice(i - 1, 0, ...order.splice(i, 1))
    for (const [rank, l] of order.entries()) if (l.rank !== rank) void change(l, { rank })
  }
  const { junk = 0, offers = 0, told = 0 } = useDayline().data ?? {}
  if (!lists?.length && !junk && !offers && !told) return null
  return (
    <div
      className="max-h-[42vh] overflow-y-auto border-t border-sand-300 bg-sand-100"
      aria-label={sentences.yourLists}
      role="group"
    >
      {junk + offers + told > 0 && (
        <p className="flex flex-wrap border-b border-sand-200 last:border-b-0">
          {told > 0 && <Line to="/facts" name={sentences.stillToCome} n={told} testid="to-facts" />}
          {junk > 0 && <Line to="/junk" name={sentences.junkToLook} n={junk} testid="to-junk" />}
          {offers > 0 && <Line to="/rules" name={sentences.rulesOffered} n={offers} testid="to-offers" />}
        </p>
      )}
      {lists?.map((l, i) => (
        <section
          key={l.id}
          aria-label={l.name}
          className="group border-b border-sand-200 last:border-b-0"
          data-list={l.name}
        >
          <h2 className="flex items-center px-3.5 text-[12px]">
            <Opener open={!l.folded} className="flex-1 py-[7px]" onClick={() => void change(l, { folded: !l.folded })}>
              {l.folded ? (
                <CaretRightIcon size={11} weight="bold" aria-hidden />
              ) : (
                <CaretDownIcon size={11} weight="bold" aria-hidden />
              )}
              <span className="truncate">{l.name}</span>
            </Opener>
            <span className="hidden gap-0.5 group-focus-within:flex group-hover:flex">
              <IconButton
                label={l.counted ? sentences.offTheRail(l.name) : sentences.ontoTheRail(l.name)}
                aria-pressed={l.counted}
                onClick={() => void change(l, { counted: !l.counted })}
              >
                {l.counted ? (
                  <BookmarkSimpleIcon size={12} weight="fill" aria-hidden />
                ) : (
                  <BookmarkSimpleIcon size={12} aria-hidden />
                )}
              </IconButton>
              <IconButton label={sentences.hearOf(l.name)} onClick={() => void navigate(ruleOf(l.name))}>
                <BellSimpleIcon size={12} aria-hidden />
              </IconButton>
              {i > 0 && (
                <IconButton label={sentences.moveUp(l.name)} onClick={() => raise(i)}>
                  <CaretUpIcon size={12} aria-hidden />
                </IconButton>
              )}
              <IconButton
                label={sentences.deleteTheList(l.name)}
                tip={sentences.deleteTheListWhat}
                onClick={() =>
                  void post(`/lists/${l.id}/drop`)
                    .then(() => client.invalidateQueries({ queryKey: ['lists'] }))
                    .catch((e: Error) => say({ text: e.message, wrong: true }))
                }
              >
                <XIcon size={12} aria-hidden />
              </IconButton>
            </span>
            <span className="ml-1 font-medium text-ink-500">{l.count >= 1000 ? '1,000+' : l.count}</span>
          </h2>
          {!l.folded && (
            <ul className="pb-1">
              {l.slips.map((s) => (
                <ListLine key={s.id} id={s.id} on={s.id === shown} show={show} />
              ))}
              {!l.slips.length && (
                <li className="px-[26px] pb-1.5 text-[12px] text-ink-500">{sentences.nothingIsOnIt}</li>
              )}
            </ul>
          )}
        </section>
      ))}
    </div>
  )
})

function ListLine({ id, on, show }: { id: number; on: boolean; show: (id: number) => void }) {
  const slip = useSlip(id)
  if (!slip) return null
  return (
    <li>
      <LineButton row on={on} className="gap-2 px-[26px] py-1 text-[12.5px]" onClick={() => show(id)}>
        <b className="max-w-[38%] shrink-0 truncate font-semibold">{slip.from}</b>
        <span className="min-w-0 flex-1 truncate text-ink-700">{slip.title || slip.subject}</span>
        <span className="shrink-0 text-[11.5px] text-ink-500">{short(slip.lastAt)}</span>
      </LineButton>
    </li>
  )
}
