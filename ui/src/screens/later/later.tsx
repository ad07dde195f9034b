import type { Slip } from '../../api/gen/desk'
import { useLater } from '../../api/queries'
import { clock, date, dayKey, daysAway } from '../../api/times'
import { Empty, Failed } from '../../kit/kit'
import { Listing } from '../listing'
import type { Group } from '../inbox/sliplist'

/** What is snoozed, in the order of its return. */
export function Later() {
  const list = useLater()
  if (list.error) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return null
  const slips = list.data.pages.flatMap((p) => p.slips)
  if (!slips.length) return <Empty title="Nothing is snoozed">A conversation you snooze with key 5 waits here until its time, and comes back on top of the inbox.</Empty>
  return (
    <Listing
      label="Later"
      name="snoozed"
      groups={byDay(slips)}
      time={(s) => clock(s.position.return.at)}
      onEnd={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
      head={<h1 className="px-3.5 pt-3 pb-1 text-[16px] tracking-[-.01em]">Later <span className="text-[12.5px] font-normal text-ink-500">in the order of return</span></h1>}
    />
  )
}

function byDay(slips: Slip[]): Group[] {
  const groups: Group[] = []
  for (const s of slips) {
    const at = s.position.return.at
    const key = dayKey(at)
    if (groups.at(-1)?.key !== key) {
      const away = daysAway(at)
      groups.push({ key, name: away === 0 ? 'Back today' : away === 1 ? 'Back tomorrow' : 'Back ' + date(at), slips: [] })
    }
    groups.at(-1)!.slips.push(s)
  }
  return groups
}
