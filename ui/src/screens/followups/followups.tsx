import { useEffect, useMemo, useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { ArrowCounterClockwiseIcon, CheckIcon } from '@phosphor-icons/react'
import type { FollowUpView } from '../../api/gen/desk'
import { useFollowUps } from '../../api/queries'
import { long } from '../../api/times'
import { Chip, Empty, Failed, Waves } from '../../kit/kit'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { DockKey, DockSide } from '../worktop/dock'
import { FollowUpTray } from '../worktop/followup'
import { dueChip } from '../worktop/why'

const names: Record<string, string> = {
  late: 'Late', today: 'Today', tomorrow: 'Tomorrow', 'this-week': 'This week', 'next-weeks': 'Next weeks', 'no-date': 'No date',
}

/** Tracked work by date, with the mail each came from one key away. */
export function FollowUps() {
  const { data, error, refetch } = useFollowUps()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<string>()
  const [change, setChange] = useState(false)
  const place = useRef(0)
  const all = useMemo(() => [...(data?.groups.flatMap((g) => g.followUps) ?? []), ...(data?.finished ?? [])], [data])
  const found = all.findIndex((f) => f.uid === chosen)
  const index = found >= 0 ? found : Math.min(place.current, all.length - 1)
  const current = all[index] as FollowUpView | undefined
  useEffect(() => { if (index >= 0) place.current = index }, [index])
  const open = current && (current.status === 'needs-action' || current.status === 'in-process')
  const choose = (f?: FollowUpView) => {
    if (!f) return
    setChosen(f.uid)
    setChange(false)
    document.getElementById('followup-' + f.uid)?.scrollIntoView({ block: 'nearest' })
  }
  const step = (kind: string, f = current) => {
    if (!f) return
    const at = all.findIndex((x) => x.uid === f.uid)
    if (f.uid === current?.uid) setChosen((all[at + 1] ?? all[at - 1])?.uid)
    void desk.step(f.uid, { kind, remind: { at: 0 } })
  }
  useCommands([
    { id: 'next', run: () => choose(all[index + 1]) },
    { id: 'previous', run: () => choose(all[index - 1]) },
    ...(current ? [
      { id: 'open-mail', run: () => { if (current.conversation) void navigate('/c/' + current.conversation) } },
      ...(open ? [
        { id: 'drop', run: () => step('drop') },
        { id: 'finish', run: () => step('finish') },
        { id: 'change', run: () => setChange(!change) },
      ] : [{ id: 'reopen', run: () => step('reopen') }]),
    ] : []),
  ])
  if (error) return <Failed error={error} again={() => void refetch()} />
  if (!data) return null
  const some = all.length > 0
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="px-[22px] pt-4 max-[700px]:px-4">
        <h1 className="mb-3 text-[24px] tracking-[-.025em]">Follow-ups</h1>
        <ul className="mb-2 grid grid-cols-6 gap-1.5 max-[700px]:grid-cols-3" aria-label="Groups">
          {data.groups.map((g) => (
            <li key={g.group}>
              <button
                disabled={!g.count}
                onClick={() => choose(g.followUps[0])}
                className={`block w-full rounded-[8px] bg-sand-100 px-2.5 py-1.5 text-left text-[11px] text-ink-500 ${g.count ? 'hover:bg-sand-200' : ''} ${g.group === 'today' ? 'outline-2 outline-fill' : ''}`}
              >
                <b className={`block text-[12px] ${g.group === 'late' && g.count ? 'text-coral-600' : 'text-ink-900'}`}>{names[g.group]}</b>
                {g.count === 0 ? 'none' : `${g.count} open`}
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div className="min-h-0 overflow-y-auto px-[22px] pb-6 max-[700px]:px-4">
        {!some && <Empty title="Nothing to follow up">A message becomes a follow-up with key 6. It stands here by its date until it is done.</Empty>}
        {data.groups.filter((g) => g.followUps.length).map((g) => (
          <Group key={g.group} name={names[g.group]} count={g.count} late={g.group === 'late'}>
            {g.followUps.map((f) => <Line key={f.uid} f={f} selected={f.uid === current?.uid} onSelect={() => choose(f)} onFinish={() => step('finish', f)} />)}
          </Group>
        ))}
        {data.finished.length > 0 && (
          <Group name="Finished lately" count={data.finished.length} done>
            {data.finished.map((f) => <Line key={f.uid} f={f} selected={f.uid === current?.uid} onSelect={() => choose(f)} onReopen={() => step('reopen', f)} />)}
          </Group>
        )}
      </div>
      <div className="relative border-t border-sand-300 bg-sand-100" role="toolbar" aria-label="Decisions">
        {change && current && (
          <FollowUpTray key={current.uid} title="" change={current} onClose={() => setChange(false)}
            onMake={(c) => { setChange(false); void desk.step(current.uid, { kind: 'change', change: c, remind: { at: 0 } }) }} />
        )}
        <div className="flex items-center gap-2 px-4 py-[11px] max-[700px]:px-2 max-[700px]:py-1.5">
          {current && !open ? <DockKey id="reopen" onClick={() => step('reopen')}>Open again</DockKey> : (
            <>
              <DockKey id="drop" disabled={!current} onClick={() => step('drop')}>Drop</DockKey>
              <DockKey id="finish" disabled={!current} onClick={() => step('finish')}>Finish</DockKey>
              <DockKey id="change" disabled={!current} on={change} onClick={() => setChange(!change)}>Change</DockKey>
            </>
          )}
          {current && current.conversation > 0 && <DockKey id="open-mail" onClick={() => void navigate('/c/' + current.conversation)}>Open mail</DockKey>}
          <DockSide position={some ? `${index + 1} of ${all.length}` : ''} />
        </div>
      </div>
    </div>
  )
}

function Group({ name, count, late, done, children }: { name: string; count: number; late?: boolean; done?: boolean; children: React.ReactNode }) {
  return (
    <section aria-label={name} className="mt-3">
      <h2 className={`flex justify-between border-b-2 px-0.5 pb-1.5 text-[13.5px] ${late ? 'border-coral-600' : done ? 'border-kelp-600' : 'border-ink-900'}`}>
        {name}<span className="font-medium text-ink-500">{count}</span>
      </h2>
      <ul>{children}</ul>
    </section>
  )
}

interface LineProps {
  f: FollowUpView
  selected: boolean
  onSelect: () => void
  onFinish?: () => void
  onReopen?: () => void
}

function Line({ f, selected, onSelect, onFinish, onReopen }: LineProps) {
  const chip = f.due.at > 0 ? dueChip(f.due) : null
  return (
    <li
      id={'followup-' + f.uid}
      aria-current={selected}
      onClick={onSelect}
      className={`flex items-start gap-3 border-b border-sand-200 px-2.5 py-2 ${selected ? 'bg-sand-0 shadow-[inset_4px_0_0_var(--fill)]' : 'hover:bg-sand-100/60'}`}
    >
      {onFinish ? (
        <button aria-label={`Finish: ${f.title}`} title="Finish" onClick={(e) => { e.stopPropagation(); onFinish() }} className="group mt-0.5 grid size-5 shrink-0 place-items-center rounded-[6px] border-[1.5px] border-ink-400 bg-sand-0 hover:border-kelp-600 hover:bg-kelp-100">
          <CheckIcon size={13} weight="bold" className="text-kelp-600 opacity-0 group-hover:opacity-100" aria-hidden />
        </button>
      ) : (
        <button aria-label={`Open again: ${f.title}`} title="Open again" onClick={(e) => { e.stopPropagation(); onReopen?.() }} className="mt-0.5 grid size-5 shrink-0 place-items-center rounded-[6px] bg-kelp-100 text-kelp-600">
          <ArrowCounterClockwiseIcon size={13} aria-hidden />
        </button>
      )}
      <div className="min-w-0 flex-1">
        <p className={`font-semibold break-words ${onReopen ? 'text-ink-500' : ''}`}>{f.title}</p>
        {f.conversation > 0 && (
          <Link to={f.message ? '/mid/' + encodeURIComponent(f.message) : '/c/' + f.conversation} onClick={(e) => e.stopPropagation()} className="mt-1 block max-w-full truncate border-l-2 border-sand-300 pl-[7px] text-[11.5px] text-ink-500 hover:text-ink-900 hover:underline">
            {f.from} — {f.subject || '(no subject)'}
          </Link>
        )}
      </div>
      <div className="flex shrink-0 flex-wrap items-center justify-end gap-1.5 pt-px text-[11.5px] text-ink-500 max-[700px]:max-w-[40%]">
        {f.remind.at > 0 && <span>reminds {long(f.remind.at)}</span>}
        {onReopen ? <Chip tone={f.status === 'completed' ? 'done' : 'plain'}>{f.status === 'completed' ? 'finished' : 'dropped'} {long(f.finished)}</Chip> : chip && <Chip tone={chip.tone}>{chip.text}</Chip>}
        <Waves priority={f.priority} />
      </div>
    </li>
  )
}
