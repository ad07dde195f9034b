import { cx } from '../../kit/cx'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { KeyButton } from '../../kit/pieces'
import { useState, type ReactNode } from 'react'
import { useNavigate } from 'react-router'
import type { Slip } from '../../api/desk'
import type { Chain, Place } from '../../api/gen/inbox'
import { useConversation, useSession } from '../../api/queries'
import { slipOf } from '../../api/slips'
import { DOCK, useCommands, useKey } from '../../frame/commands'
import { keyName } from '../../frame/keymap'
import { useDesk, type Deciding } from '../../frame/desk'
import { SnoozeTray } from './snooze'
import { FollowUpTray } from './followup'
import { FlagTray } from './flag'
import { WaitTray } from './wait'
import { EventTray } from '../calendar/event'
import { LabelTray } from './label'
import { NoteTray, RenameTray } from './write'
import { useTwoMinutes, WriteTray } from './reply'
import { LeaveTray } from './leave'
import { useLetThrough } from './through'
import { Button, TextButton } from '../../kit/button'

/** What stands open above the dock; the inbox has some of its own. */
export type Tray =
  | ''
  | 'snooze'
  | 'follow-up'
  | 'flag'
  | 'wait'
  | 'calendar'
  | 'label'
  | 'note'
  | 'rename'
  | 'reply'
  | 'remind'
  | 'forward'
  | 'pass-on'
  | 'leave-list'
  | 'arrange'
  | 'sit'
  | 'fresh-start'
  | 'list'

interface Props {
  id?: number // of the conversation shown; its slip may still be on its way
  slip?: Slip
  chosen?: number[] // many, decided together instead of the one shown
  choosing?: ReactNode // what can be done about the choice of many
  tray: Tray
  setTray: (t: Tray) => void
  trays?: (tray: Tray, close: () => void, chosen: number[]) => ReactNode
  position?: ReactNode
  sitting?: number
  seen?: Place // where the list shows all its conversations to be
  /** Called with each decision that takes conversations away, before it is sent. */
  onAway: (ids: number[]) => void
}

const one: Tray[] = ['reply', 'remind', 'forward', 'pass-on', 'leave-list', 'rename', 'note', 'wait', 'calendar'] // trays about a single conversation

/** The row of decisions about one conversation or many, and the tray above it. */
export function Dock({
  id,
  slip,
  chosen = [],
  choosing,
  tray,
  setTray,
  trays,
  position,
  sitting,
  seen,
  onAway,
}: Props) {
  const desk = useDesk()
  const navigate = useNavigate()
  const combos = useSession().data!.habits.combos ?? []
  const [about, setAbout] = useState<number>()
  const two = useTwoMinutes(slip?.id)
  const opened = useConversation(id).data
  const letThrough = useLetThrough()
  const many = chosen.length
  const targets = many ? chosen : slip ? [slip.id] : []
  const own = trays?.(tray, () => setTray(''), chosen)
  if (tray && !own && !many && about !== slip?.id) {
    // another conversation: its tray is not this one's
    if (about !== undefined) setTray('')
    setAbout(slip?.id)
  }
  if (!tray && about !== undefined) setAbout(undefined)
  const open = (t: Tray) => {
    setAbout(slip?.id)
    setTray(tray === t ? '' : t)
  }
  const place = seen ?? (many ? slipOf(chosen[0]) : undefined)?.position.place ?? slip?.position.place
  const decide = (d: Deciding, away = false) => {
    if (!targets.length)
      return id === undefined
        ? undefined
        : desk.say({ text: 'Still loading this conversation. Press the key again in a moment.' })
    setTray('')
    if (away) onAway(targets)
    void desk.decide({ ...d, conversations: targets, seen, sitting }, away)
  }
  const mark = (kind: string) => decide({ kind })
  const starred = many ? chosen.every((id) => slipOf(id)?.starred) : !!slip?.starred
  const run = (c: Chain) =>
    decide(
      { kind: 'combo', combo: c.id },
      c.steps.some((s) => s.kind === 'bin' || s.kind === 'archive' || s.kind === 'snooze'),
    )
  const some = targets.length > 0 || id !== undefined
  const n = many > 1 ? ` ${many.toLocaleString('en-GB')}` : ''
  useCommands(
    [
      ...(some
        ? [
            ...(place !== 'bin' ? [{ id: 'bin', run: () => decide({ kind: 'bin' }, true) }] : []),
            ...(place !== 'archived' ? [{ id: 'archive', run: () => decide({ kind: 'archive' }, true) }] : []),
            ...(many
              ? []
              : [
                  { id: 'reply', run: () => open('reply') },
                  { id: 'forward', run: () => open('forward') },
                  { id: 'pass-on', run: () => open('pass-on') },
                  ...(slip?.kind === 'list' ? [{ id: 'leave-list', run: () => open('leave-list') }] : []),
                  { id: 'calendar', run: () => open('calendar') },
                  { id: 'wait', run: () => open('wait') },
                  { id: 'note', run: () => open('note') },
                  { id: 'rename', run: () => open('rename') },
                  {
                    id: 'let-through',
                    run: () => {
                      const b = opened?.between
                      if (b) letThrough(b.address, b.name || b.address)
                    },
                  },
                  {
                    id: 'its-history',
                    run: () => {
                      if (slip) void navigate('/history?conversation=' + slip.id)
                    },
                  },
                ]),
            {
              id: 'snooze',
              name: place === 'snoozed' ? 'Change when it comes back' : undefined,
              run: () => open('snooze'),
            },
            { id: 'follow-up', run: () => open('follow-up') },
            { id: 'flag', run: () => open('flag') },
            { id: 'label', run: () => open('label') },
            { id: 'star', name: starred ? 'Remove the star' : 'Star', run: () => mark(starred ? 'unstar' : 'star') },
            { id: 'unread', run: () => mark('unread') },
            { id: 'read', run: () => mark('read') },
            ...(place !== 'inbox' ? [{ id: 'bring-back', run: () => decide({ kind: 'inbox' }, true) }] : []),
            ...(sitting ? [{ id: 'leave', run: () => decide({ kind: 'leave' }, true) }] : []),
            ...combos.map((c) => ({
              id: 'combo-' + c.id,
              name: c.name,
              keys: c.key ? [c.key] : [],
              run: () => run(c),
            })),
          ]
        : []),
      ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
    ],
    DOCK,
  )
  const close = () => setTray('')
  const shown = some && !(many && one.includes(tray)) ? tray : ''
  return (
    <DecisionBar>
      {own}
      {shown === 'snooze' && (
        <SnoozeTray slip={slip} many={many} onSnooze={(s) => decide({ kind: 'snooze', ...s }, true)} onClose={close} />
      )}
      {shown === 'follow-up' && (
        <FollowUpTray
          key={id}
          id={many === 1 ? chosen[0] : id}
          many={many}
          onMake={(f) => decide({ kind: 'follow-up', followUp: f }, !f.keep)}
          onClose={close}
        />
      )}
      {shown === 'flag' && (
        <FlagTray
          key={id}
          id={many === 1 ? chosen[0] : id}
          many={many}
          onFlag={(f) => decide({ kind: 'follow-up', followUp: f })}
          onClose={close}
        />
      )}
      {shown === 'wait' && slip && (
        <WaitTray
          key={slip.id}
          slip={slip}
          onWait={(f) => decide({ kind: 'follow-up', followUp: f }, true)}
          onClose={close}
        />
      )}
      {shown === 'calendar' && slip && (
        <EventTray
          key={slip.id}
          id={slip.id}
          inInbox={place === 'inbox'}
          onClose={close}
          onPut={(e) => {
            close()
            if (e.archive) onAway([slip.id])
            void desk.act('/calendar/events', { uid: '', event: e })
          }}
        />
      )}
      {shown === 'label' && (
        <LabelTray ids={targets} onLabel={(add, remove) => decide({ kind: 'label', add, remove })} onClose={close} />
      )}
      {shown === 'leave-list' && slip && (
        <LeaveTray
          key={slip.id}
          id={slip.id}
          onLeave={() => {
            close()
            void desk.act(`/conversations/${slip.id}/leave`)
          }}
          onBin={() => decide({ kind: 'bin' }, true)}
          onClose={close}
        />
      )}
      {shown === 'rename' && slip && (
        <RenameTray slip={slip} onName={(text) => decide({ kind: 'rename', text })} onClose={close} />
      )}
      {shown === 'note' && slip && (
        <NoteOf id={slip.id} onNote={(text) => decide({ kind: 'note', text })} onClose={close} />
      )}
      {(shown === 'reply' || shown === 'remind' || shown === 'forward' || shown === 'pass-on') && slip && (
        <WriteTray
          key={slip.id + shown}
          slip={slip}
          as={shown}
          two={two}
          place={place}
          seen={seen}
          sitting={sitting}
          onClose={close}
          onSent={(away) => {
            close()
            two.stop()
            if (away) onAway([slip.id])
          }}
          onRest={() =>
            decide(
              {
                kind: 'follow-up',
                followUp: {
                  title: 'Finish the answer to ' + slip.from,
                  due: { at: 0 },
                  remind: { at: 0 },
                  priority: 5,
                  keep: false,
                },
              },
              true,
            )
          }
        />
      )}
      {choosing && (
        <div
          className="flex items-center gap-1.5 overflow-x-auto border-b border-sand-200 px-4 py-1.5 text-[12px] text-ink-500"
          data-testid="choosing"
        >
          {choosing}
        </div>
      )}
      {combos.length > 0 && (
        <div
          className="flex items-center gap-1.5 overflow-x-auto px-4 pt-2 text-[12px] max-[700px]:px-2"
          aria-label="Combos"
          role="group"
        >
          {combos.map((c) => (
            <Button size="small" ground="line" key={c.id} disabled={!some} onClick={() => run(c)}>
              {c.key && <span className="text-[11px] text-ink-500">{keyName(c.key)}</span>}
              {c.name}
            </Button>
          ))}
        </div>
      )}
      <BarKeys>
        {place !== 'bin' && (
          <DockKey id="bin" disabled={!some} onClick={() => decide({ kind: 'bin' }, true)}>
            Bin{n}
          </DockKey>
        )}
        {place !== 'archived' && (
          <DockKey id="archive" disabled={!some} onClick={() => decide({ kind: 'archive' }, true)}>
            Archive{n}
          </DockKey>
        )}
        {!many && (
          <DockKey id="reply" disabled={!some} on={shown === 'reply'} onClick={() => open('reply')}>
            Reply {two.clock}
          </DockKey>
        )}
        {!many && (
          <DockKey id="pass-on" wide disabled={!some} on={shown === 'pass-on'} onClick={() => open('pass-on')}>
            Hand over
          </DockKey>
        )}
        <DockKey id="snooze" disabled={!some} on={shown === 'snooze'} onClick={() => open('snooze')}>
          Snooze{n}
        </DockKey>
        <DockKey id="follow-up" disabled={!some} on={shown === 'follow-up'} onClick={() => open('follow-up')}>
          Follow-up
        </DockKey>
        {!many && (
          <DockKey id="calendar" wide disabled={!some} on={shown === 'calendar'} onClick={() => open('calendar')}>
            Calendar
          </DockKey>
        )}
        <DockKey id="flag" widest disabled={!some} on={shown === 'flag'} onClick={() => open('flag')}>
          Flag
        </DockKey>
        <DockKey
          id="label"
          widest={place !== 'inbox'}
          disabled={!some}
          on={shown === 'label'}
          onClick={() => open('label')}
        >
          Label
        </DockKey>
        {some && place !== 'inbox' && (
          <DockKey id="bring-back" onClick={() => decide({ kind: 'inbox' }, true)}>
            Bring back{n}
          </DockKey>
        )}
        <DockKey id="star" disabled={!some} on={starred && some} onClick={() => mark(starred ? 'unstar' : 'star')}>
          Star
        </DockKey>
        {sitting && (
          <DockKey id="leave" disabled={!some} onClick={() => decide({ kind: 'leave' }, true)}>
            Leave
          </DockKey>
        )}
        <DockSide position={position} />
      </BarKeys>
    </DecisionBar>
  )
}

function NoteOf({ id, onNote, onClose }: { id: number; onNote: (text: string) => void; onClose: () => void }) {
  const { data } = useConversation(id)
  return data ? <NoteTray note={data.note} onNote={onNote} onClose={onClose} /> : null
}

/** The right end of a dock: where one is, or what was just done. On a narrow screen it is a line above it, while there is something to say. */
export function DockSide({ position }: { position?: ReactNode }) {
  const { notice, takeBack, say } = useDesk()
  const undo = useKey('take-back')
  const more = useKey('palette')
  return (
    <div
      className={cx(
        '@container ml-auto min-w-[88px] flex-1 pl-3 text-right text-[12px] leading-[1.35] text-ink-500',
        'max-[700px]:absolute max-[700px]:inset-x-2 max-[700px]:bottom-full max-[700px]:mb-1',
        'max-[700px]:rounded-[9px] max-[700px]:border max-[700px]:border-sand-300 max-[700px]:bg-sand-0',
        'max-[700px]:px-3 max-[700px]:py-2 max-[700px]:text-left',
        notice ? '' : 'max-[700px]:hidden',
      )}
    >
      {notice ? (
        <p
          className={cx(
            'ebb max-w-[420px] max-[700px]:flex max-[700px]:max-w-none max-[700px]:justify-between',
            'max-[700px]:gap-3',
            notice.wrong ? 'font-semibold text-coral-600' : 'text-ink-900',
          )}
          role={notice.wrong ? 'alert' : undefined}
          data-testid="notice"
        >
          {notice.text} {notice.undo && <TextButton onClick={() => void takeBack()}>Take back</TextButton>}
          {notice.wrong && (
            <TextButton tone="late" onClick={() => say(null)}>
              Close
            </TextButton>
          )}
        </p>
      ) : (
        <b className="block whitespace-nowrap text-ink-900">{position}</b>
      )}
      <span className="hidden whitespace-nowrap max-[700px]:hidden! @min-[180px]:inline">
        {undo} takes back · {more.replace('Ctrl K', '.')} for more
      </span>
    </div>
  )
}

interface KeyProps {
  id: string // of its command
  on?: boolean
  usual?: string[] // its usual keys, where the keymap does not know it
  wide?: boolean // has room only on a wide screen; its key and the palette stay
  widest?: boolean // the same on a wider one
  disabled?: boolean
  onClick: () => void
  children: ReactNode
}

/** A large key of the dock, with the key of its command. */
export function DockKey({ id, on, usual, wide, widest, disabled, onClick, children }: KeyProps) {
  const k = useKey(id, usual)
  return (
    <KeyButton
      keyed={k}
      on={on}
      room={wide ? 'wide' : widest ? 'widest' : undefined}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </KeyButton>
  )
}
