import { XIcon } from '@phosphor-icons/react'
import { useEffect, useRef } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { useSlip } from '../../api/slips'
import { here } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { leftAt, MOST_OPEN, type Opening, stepFrom, useOpenings, withOne } from '../../frame/openings'
import { Button, IconButton, TextButton } from '../../kit/button'
import { sentences } from './sentences.trays'

/** The conversations that are kept open, as tabs above what is read; the queue is the first of them. */
export function OpenTabs({ id, alone }: { id?: number; alone?: boolean }) {
  const [all, set] = useOpenings()
  const desk = useDesk()
  const navigate = useNavigate()
  const from = (useLocation().state as { queue?: boolean } | null)?.queue === true // the step before this one is the queue
  const row = useRef<HTMLElement>(null)
  const at = alone ? (id ?? 0) : 0
  const show = (to: number) => {
    if (to === at) return
    if (alone) set((a) => leftAt(a, at, here()))
    if (!to) return void (from ? navigate(-1) : navigate('/'))
    const path = all.find((o) => o.id === to)?.path ?? '/c/' + to
    if (alone) void navigate(path, { replace: true, state: { queue: from } })
    else void navigate(path, { state: { queue: true } })
  }
  const close = (gone: number) => {
    const next = stepFrom(all, gone, -1)
    set((a) => a.filter((o) => o.id !== gone))
    if (alone && gone === at) show(next)
  }
  const keep = () => {
    if (!id || id < 0) return
    if (all.some((o) => o.id === id)) return close(id)
    if (all.length >= MOST_OPEN) return desk.say({ text: sentences.noRoomOpen(MOST_OPEN) })
    set((a) => withOne(a, id, alone ? here() : undefined))
    desk.say({ text: sentences.keptOpen })
  }
  useCommands([
    { id: 'keep-open', run: keep, typing: true },
    // What is decided where it is read by itself is done with.
    ...(alone && all.some((o) => o.id === at)
      ? [{ id: 'close-open', run: () => set((a) => a.filter((o) => o.id !== at)), hidden: true }]
      : []),
    ...(all.length
      ? [
          { id: 'next-open', run: () => show(stepFrom(all, at, 1)), typing: true },
          { id: 'previous-open', run: () => show(stepFrom(all, at, -1)), typing: true },
        ]
      : []),
  ])
  useEffect(() => {
    row.current?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [at, all])
  const kept = all.some((o) => o.id === id)
  if (!all.length && !alone) return null
  return (
    <nav
      ref={row}
      aria-label={sentences.openOnes}
      data-testid="open-tabs"
      className="no-print flex shrink-0 [scrollbar-width:none] items-center gap-1 overflow-x-auto border-b border-sand-200 bg-sand-50 px-3 py-1"
    >
      <Button
        ground={alone ? 'bare' : 'line'}
        size="small"
        className="shrink-0"
        aria-current={alone ? undefined : 'page'}
        onClick={() => show(0)}
      >
        {sentences.queue}
      </Button>
      {all.map((o) => (
        <Tab key={o.id} opening={o} current={o.id === at} show={show} close={close} />
      ))}
      {alone && !kept && !!id && (
        <TextButton className="ml-1 shrink-0 whitespace-nowrap" onClick={keep}>
          {sentences.keepOpen}
        </TextButton>
      )}
    </nav>
  )
}

function Tab({
  opening: { id },
  current,
  show,
  close,
}: {
  opening: Opening
  current: boolean
  show: (id: number) => void
  close: (id: number) => void
}) {
  const slip = useSlip(id)
  const name = slip ? slip.title || slip.subject : sentences.conversation
  return (
    <span className="flex shrink-0 items-center">
      <Button
        ground={current ? 'line' : 'bare'}
        size="small"
        className="max-w-[210px]"
        title={name}
        aria-current={current ? 'page' : undefined}
        onClick={() => show(id)}
        onAuxClick={(e) => e.button === 1 && close(id)}
      >
        <span className="truncate">{name}</span>
        {slip?.unread && !current && (
          <span className="size-[7px] shrink-0 rotate-45 bg-coral-600" role="img" aria-label={sentences.somethingNew} />
        )}
        {slip?.draft && <b className="font-[550] text-amber-600">{sentences.draft}</b>}
      </Button>
      <IconButton label={sentences.closeNamed(name)} onClick={() => close(id)}>
        <XIcon size={11} aria-hidden />
      </IconButton>
    </span>
  )
}
