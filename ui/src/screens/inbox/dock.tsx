import { useState, type ReactNode } from 'react'
import type { Slip } from '../../api/gen/desk'
import type { NewFollowUp } from '../../api/gen/desk'
import type { Moment } from '../../api/gen/when'
import { Key } from '../../kit/kit'
import { DOCK, useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { SnoozeTray } from './snooze'
import { FollowUpTray } from './followup'

interface Props {
  slip?: Slip
  position?: string
  /** Called with each decision that takes the conversation away, before it is sent. */
  onAway: (slip: Slip) => void
}

type Tray = '' | 'snooze' | 'follow-up'

/** The row of decisions about one conversation, and the tray above it. */
export function Dock({ slip, position, onAway }: Props) {
  const desk = useDesk()
  const [tray, setTray] = useState<Tray>('')
  const [for_, setFor] = useState<number>()
  if (tray && for_ !== slip?.id) setTray('') // another conversation: its tray is not this one's
  const open = (t: Tray) => {
    setFor(slip?.id)
    setTray(tray === t ? '' : t)
  }
  const decide = (kind: string, extra: { return?: Moment; followUp?: NewFollowUp } = {}) => {
    if (!slip) return
    setTray('')
    if (!extra.followUp?.keep) onAway(slip)
    void desk.decide({ kind, conversations: [slip.id], return: extra.return ?? { at: 0 }, followUp: extra.followUp })
  }
  const mark = (kind: string) => { if (slip) void desk.decide({ kind, conversations: [slip.id], return: { at: 0 } }) }
  const place = slip?.position.place
  const star = slip?.starred ? 'unstar' : 'star'
  useCommands([
    ...(slip ? [
      ...(place !== 'bin' ? [{ id: 'bin', name: 'Bin', keys: ['1'], run: () => decide('bin') }] : []),
      ...(place !== 'archived' ? [{ id: 'archive', name: 'Archive', keys: ['2'], run: () => decide('archive') }] : []),
      { id: 'snooze', name: place === 'snoozed' ? 'Change when it comes back' : 'Snooze', keys: ['5'], run: () => open('snooze') },
      { id: 'follow-up', name: 'Make a follow-up', keys: ['6'], run: () => open('follow-up') },
      { id: 'star', name: slip.starred ? 'Take the star away' : 'Star', keys: ['*'], run: () => mark(star) },
      { id: 'unread', name: 'Mark unread', run: () => mark('unread') },
      ...(place !== 'inbox' ? [{ id: 'bring-back', name: 'Bring back to the inbox', keys: ['9'], run: () => decide('inbox') }] : []),
    ] : []),
    ...(tray ? [{ id: 'close-tray', name: 'Close the tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
  ], DOCK)
  return (
    <div className="relative col-span-full border-t border-sand-300 bg-sand-100" role="toolbar" aria-label="Decisions">
      {slip && tray === 'snooze' && <SnoozeTray slip={slip} onSnooze={(m) => decide('snooze', { return: m })} onClose={() => setTray('')} />}
      {slip && tray === 'follow-up' && <FollowUpTray title={'Reply to ' + slip.from} onMake={(f) => decide('follow-up', { followUp: f })} onClose={() => setTray('')} />}
      <div className="flex items-center gap-2 px-4 py-[11px] max-[700px]:gap-1.5 max-[700px]:px-2 max-[700px]:py-1.5">
        {place !== 'bin' && <DockKey k="1" disabled={!slip} onClick={() => decide('bin')}>Bin</DockKey>}
        {place !== 'archived' && <DockKey k="2" disabled={!slip} onClick={() => decide('archive')}>Archive</DockKey>}
        <DockKey k="5" disabled={!slip} on={tray === 'snooze'} onClick={() => open('snooze')}>Snooze</DockKey>
        <DockKey k="6" disabled={!slip} on={tray === 'follow-up'} onClick={() => open('follow-up')}>Follow-up</DockKey>
        {slip && place !== 'inbox' && <DockKey k="9" onClick={() => decide('inbox')}>Bring back</DockKey>}
        <DockKey k="*" disabled={!slip} on={!!slip?.starred} onClick={() => mark(star)}>Star</DockKey>
        <DockSide position={position} />
      </div>
    </div>
  )
}

/** The right end of a dock: where one is, or what was just done. On a narrow screen it is a line above it, while there is something to say. */
export function DockSide({ position }: { position?: string }) {
  const { notice, takeBack, say } = useDesk()
  return (
    <div className={`ml-auto min-w-0 pl-3 text-right text-[12px] leading-[1.35] text-ink-500 max-[700px]:absolute max-[700px]:inset-x-2 max-[700px]:bottom-full max-[700px]:mb-1 max-[700px]:rounded-[9px] max-[700px]:border max-[700px]:border-sand-300 max-[700px]:bg-sand-0 max-[700px]:px-3 max-[700px]:py-2 max-[700px]:text-left ${notice ? '' : 'max-[700px]:hidden'}`}>
      {notice ? (
        <p className={`ebb max-w-[420px] max-[700px]:flex max-[700px]:max-w-none max-[700px]:justify-between max-[700px]:gap-3 ${notice.wrong ? 'font-semibold text-coral-600' : 'text-ink-900'}`} role={notice.wrong ? 'alert' : undefined} data-testid="notice">
          {notice.text}{' '}
          {notice.undo && <button className="font-semibold whitespace-nowrap text-accent" onClick={() => void takeBack()}>Take back</button>}
          {notice.wrong && <button className="font-semibold text-coral-600 underline" onClick={() => say(null)}>Close</button>}
        </p>
      ) : (
        <b className="block whitespace-nowrap text-ink-900">{position}</b>
      )}
      <span className="whitespace-nowrap max-[700px]:hidden">Ctrl Z takes back · . for more</span>
    </div>
  )
}

interface KeyProps {
  k: string
  on?: boolean
  disabled?: boolean
  onClick: () => void
  children: ReactNode
}

/** A large key of the dock, with its number. */
export const DockKey = ({ k, on, disabled, onClick, children }: KeyProps) => (
  <button
    type="button"
    disabled={disabled}
    aria-pressed={on}
    aria-keyshortcuts={k}
    onClick={onClick}
    className={`flex shrink-0 items-center gap-[9px] rounded-[9px] border border-b-[3px] py-2 pr-[13px] pl-[9px] text-[13.5px] font-semibold disabled:opacity-45 max-[700px]:flex-1 max-[700px]:justify-center max-[700px]:px-1 max-[700px]:text-[12px] max-[700px]:whitespace-nowrap ${on ? 'border-[#0A3F47] bg-fill text-white' : 'border-sand-300 bg-sand-0 text-ink-900 hover:bg-sand-50'}`}
  >
    <span className="max-[700px]:hidden"><Key light={on}>{k}</Key></span>
    {children}
  </button>
)
