import { useEffect, useMemo, useRef } from 'react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { PaperclipIcon, StarIcon } from '@phosphor-icons/react'
import type { Slip } from '../../api/gen/desk'
import { plural, short } from '../../api/times'
import { Chip } from '../../kit/kit'
import { dueChip, kindName, ordinal, whyChip } from './why'

export interface Group {
  key: string
  name: string
  count?: number
  slips: Slip[]
}

interface Props {
  label: string
  groups: Group[]
  selected?: number
  onSelect: (slip: Slip) => void
  onOpen?: (slip: Slip) => void
  onEnd?: () => void
  time?: (slip: Slip) => string
}

type Line = { group: Group } | { slip: Slip; n: number }

/** A queue of slips, of which only those in view are drawn. */
export function SlipList({ label, groups, selected, onSelect, onOpen, onEnd, time = timeOf }: Props) {
  const scroll = useRef<HTMLDivElement>(null)
  const lines = useMemo(() => {
    const out: Line[] = []
    let n = 0
    for (const group of groups) {
      if (!group.slips.length) continue
      if (group.name) out.push({ group })
      for (const slip of group.slips) out.push({ slip, n: ++n })
    }
    return out
  }, [groups])
  const total = lines.filter((l) => 'slip' in l).length
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => { const l = lines[i]; return 'slip' in l ? (notes(l.slip) ? 76 : 57) : 32 },
    getItemKey: (i) => { const l = lines[i]; return 'slip' in l ? l.slip.id : l.group.key },
    overscan: 8,
  })
  const items = rows.getVirtualItems()
  const last = items.at(-1)?.index ?? 0
  useEffect(() => { if (onEnd && lines.length && last >= lines.length - 20) onEnd() }, [last, lines.length, onEnd])
  const at = lines.findIndex((l) => 'slip' in l && l.slip.id === selected)
  useEffect(() => {
    if (at < 0) return
    // The name of a group stays in view with its first slip.
    rows.scrollToIndex(at > 0 && 'group' in lines[at - 1] ? at - 1 : at, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when the selection moves
  }, [at])
  return (
    <div ref={scroll} className="h-full overflow-y-auto overscroll-contain" data-testid="queue">
      <div role="listbox" aria-label={label} tabIndex={0} aria-activedescendant={at >= 0 ? 'slip-' + selected : undefined} className="relative outline-offset-[-2px]" style={{ height: rows.getTotalSize() }}>
        {items.map((item) => {
          const line = lines[item.index]
          return (
            <div key={item.key} role="presentation" className="absolute inset-x-0 top-0" style={{ height: item.size, transform: `translateY(${item.start}px)` }}>
              {'slip' in line ? (
                <SlipLine slip={line.slip} n={line.n} total={total} selected={line.slip.id === selected} time={time(line.slip)} onSelect={onSelect} onOpen={onOpen} />
              ) : (
                <div role="presentation" className="flex h-8 items-end justify-between px-3.5 pb-[5px] text-[11.5px] font-[650] text-accent">
                  {line.group.name}
                  {line.group.count !== undefined && <span className="font-medium text-ink-500">{line.group.count.toLocaleString('en-GB')}</span>}
                </div>
              )}
            </div>
          )
        })}
      </div>
    </div>
  )
}

const notes = (s: Slip) => !!(whyChip(s) || s.due || kindName(s.kind) || s.files || s.looks || (s.messages > 1))

function timeOf(s: Slip) {
  return s.position.reason === 'back' ? 'snoozed ' + short(s.position.snoozedAt) : short(s.lastAt)
}

interface LineProps {
  slip: Slip
  n: number
  total: number
  selected: boolean
  time: string
  onSelect: (slip: Slip) => void
  onOpen?: (slip: Slip) => void
}

function SlipLine({ slip, n, total, selected, time, onSelect, onOpen }: LineProps) {
  const why = whyChip(slip)
  const due = slip.due && dueChip(slip.due)
  return (
    <div
      id={'slip-' + slip.id}
      data-slip={slip.id}
      role="option"
      aria-selected={selected}
      aria-setsize={total}
      aria-posinset={n}
      onClick={() => onSelect(slip)}
      onDoubleClick={() => onOpen?.(slip)}
      className={`relative h-full cursor-default border-b border-sand-200 px-3.5 pt-2 pb-[9px] pl-[18px] ${slip.unread ? 'slip-unread' : ''} ${selected ? 'bg-sand-0 shadow-[inset_4px_0_0_var(--fill)]' : 'hover:bg-sand-100/60'}`}
    >
      <div className="flex justify-between gap-2">
        <b className="truncate">{slip.unread && <span className="sr-only">unread, </span>}{slip.from}</b>
        <span className="flex shrink-0 items-center gap-1 text-[12px] whitespace-nowrap text-ink-500">
          {slip.starred && <StarIcon size={13} weight="fill" className="text-accent" aria-label="starred" />}
          {time}
        </span>
      </div>
      <p className="truncate text-ink-700">{slip.subject}</p>
      <div className="mt-[3px] flex items-center gap-1.5 overflow-hidden text-[11px] whitespace-nowrap text-ink-500">
        {why && <Chip tone={why.tone}>{why.text}</Chip>}
        {due && <Chip tone={due.tone}>{due.text}</Chip>}
        {kindName(slip.kind) && <Chip>{kindName(slip.kind)}</Chip>}
        {slip.files > 0 && <span className="flex items-center gap-0.5"><PaperclipIcon size={12} aria-hidden />{plural(slip.files, 'file')}</span>}
        {slip.looks > 0 && <span className={slip.looks > 1 ? 'font-semibold text-coral-600' : ''}>{ordinal(slip.looks + 1)} look</span>}
        {!why && !due && slip.messages > 1 && <span>{slip.messages} messages</span>}
      </div>
    </div>
  )
}
