import { Link } from 'react-router'
import type { HistoryLine } from '../../api/gen/desk'
import { useHistory } from '../../api/queries'
import { clock, date, dayKey, daysAway, plural } from '../../api/times'
import { Button, Chip, Empty, Failed } from '../../kit/kit'
import { useDesk } from '../../frame/desk'

const verbs: Record<string, string> = {
  bin: 'binned', archive: 'archived', inbox: 'brought back', snooze: 'snoozed', star: 'starred', unstar: 'took the star from', unread: 'marked unread',
  'follow-up': 'made a follow-up:', change: 'changed', finish: 'finished', reopen: 'opened again', drop: 'dropped',
  return: 'brought back, as asked,', remind: 'reminded of', arrive: 'came in:', import: 'imported', 'take-back': 'took back:', again: 'did again:',
}
const actors: Record<string, string> = { clock: 'The clock', mail: 'Mail' }

/** Who decided what, when; newest first. */
export function HistoryScreen() {
  const list = useHistory()
  const { takeBack } = useDesk()
  if (list.error) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return null
  const lines = list.data.pages.flatMap((p) => p.lines)
  const days: { key: string; at: number; lines: HistoryLine[] }[] = []
  for (const l of lines) {
    const key = dayKey(l.at)
    if (days.at(-1)?.key !== key) days.push({ key, at: l.at, lines: [] })
    days.at(-1)!.lines.push(l)
  }
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <div className="mb-2 flex items-center justify-between gap-4">
          <h1 className="text-[24px] tracking-[-.025em]">History</h1>
          <Button quiet onClick={() => void takeBack()}>Take back the last decision</Button>
        </div>
        {!lines.length && <Empty title="Nothing has happened yet">All that you, the clock and incoming mail do is written down here, and yours can be taken back.</Empty>}
        {days.map((d) => (
          <section key={d.key} aria-label={date(d.at)} className="mt-4">
            <h2 className="sticky top-0 border-b border-sand-200 bg-sand-0 py-1.5 text-[12px] text-accent">{daysAway(d.at) === 0 ? 'Today' : daysAway(d.at) === -1 ? 'Yesterday' : date(d.at)}</h2>
            <ol>
              {d.lines.map((l) => (
                <li key={l.id} className="flex gap-3 border-b border-sand-100 py-1.5">
                  <span className="w-14 shrink-0 text-right text-[12px] leading-5 text-ink-500">{clock(l.at)}</span>
                  <span className={`min-w-0 flex-1 break-words ${l.takenBack ? 'text-ink-500' : ''}`}>
                    <b className="font-semibold">{actors[l.actor] ?? l.who.split(' ')[0]}</b> {verbs[l.kind] ?? l.kind}{' '}
                    {l.kind === 'import' && !l.text ? plural(l.count, 'message') : l.count > 1 && l.kind !== 'follow-up' && l.kind !== 'finish' && !['take-back', 'again'].includes(l.kind) ? plural(l.count, 'conversation')
                      : l.conversation ? <Link to={'/c/' + l.conversation} className="hover:underline">“{l.text || '(no subject)'}”</Link> : `“${l.text}”`}
                  </span>
                  {l.takenBack && <Chip>{l.kind === 'take-back' ? 'done again' : 'taken back'}</Chip>}
                </li>
              ))}
            </ol>
          </section>
        ))}
        {list.hasNextPage && <div className="pt-4 text-center"><Button quiet onClick={() => void list.fetchNextPage()}>Earlier</Button></div>}
      </div>
    </div>
  )
}
