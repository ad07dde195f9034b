import {
  ArchiveIcon,
  ArrowBendUpLeftIcon,
  ArrowCounterClockwiseIcon,
  ArrowLineRightIcon,
  ArrowRightIcon,
  CalendarPlusIcon,
  ChatCircleIcon,
  CheckCircleIcon,
  ClockClockwiseIcon,
  DotsThreeIcon,
  EnvelopeOpenIcon,
  FlagPennantIcon,
  type Icon,
  PencilSimpleLineIcon,
  StarIcon,
  SunHorizonIcon,
  TagIcon,
  TrashIcon,
  TrayArrowUpIcon,
  UserSwitchIcon,
  XCircleIcon,
} from '@phosphor-icons/react'
import { memo, type ReactNode, Suspense } from 'react'
import { team } from '../../api/base'
import { useKey, useRegistry } from '../../frame/commands'
import { useTold } from '../../frame/desk'
import { Keeps } from '../../frame/kept'
import { keyName } from '../../frame/keymap'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import { KeyButton } from '../../kit/pieces'
import { ToastPlace } from '../../kit/toast'
import { Tray } from '../../kit/tray'
import { type Props, seldom, useDeciding } from './deciding'
import { sentences } from './sentences'
import {
  ComboTray,
  EventTray,
  FlagTray,
  FollowUpTray,
  CommentTray,
  GiveTray,
  LabelTray,
  SeldomTray,
  ShareTray,
  SnoozeTray,
  WaitTray,
  WriteTray,
} from './trays'

/** The row of decisions about one conversation or many, and the tray above it. */
export function Dock(props: Props) {
  const { id, slip, choosing, position, sitting, seen, onAway } = props
  const {
    typedIn,
    finish,
    what,
    desk,
    combos,
    two,
    many,
    targets,
    own,
    place,
    decide,
    give,
    starred,
    run,
    some,
    n,
    close,
    shown,
  } = useDeciding(props)
  const asking = combos.find((c) => shown === `combo-${c.id}`)
  return (
    <DecisionBar>
      <Suspense fallback={<OnItsWay close={close} />}>
        {own}
        <Keeps name={typedIn} what={what}>
          {shown === 'snooze' && (
            <SnoozeTray
              slip={slip}
              many={many}
              onSnooze={(s) => decide({ kind: 'snooze', ...s }, true)}
              onClose={close}
            />
          )}
          {shown === 'follow-up' && (
            <FollowUpTray
              key={id}
              id={many === 1 ? targets[0] : id}
              many={many}
              onMake={(f) => decide({ kind: 'follow-up', followUp: f }, !f.keep)}
              onClose={close}
            />
          )}
          {shown === 'flag' && (
            <FlagTray
              key={id}
              id={many === 1 ? targets[0] : id}
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
                finish(desk.act('/calendar/events', { uid: '', event: e }))
              }}
            />
          )}
          {shown === 'give' && <GiveTray slip={many ? undefined : slip} onGive={give} onClose={close} />}
          {shown === 'share' && slip && (
            <ShareTray
              key={slip.id}
              slip={slip}
              onShare={(w) => {
                close()
                finish(desk.act(`/conversations/${slip.id}/sharing`, { ...w }))
              }}
              onClose={close}
            />
          )}
          {shown.startsWith('comment') && slip && (
            <CommentTray
              key={slip.id + shown}
              conversation={slip.id}
              of={shown}
              onSay={(path, body) => {
                close()
                finish(desk.act(path, body))
              }}
              onClose={close}
            />
          )}
          {shown === 'label' && (
            <LabelTray
              ids={targets}
              onLabel={(add, remove) => decide({ kind: 'label', add, remove })}
              onClose={close}
            />
          )}
          {asking && (
            <ComboTray
              key={asking.id + targets.join()}
              combo={asking}
              onRun={(answers) => run(asking, answers)}
              onClose={close}
            />
          )}
          {slip && seldom.includes(shown) && (
            <SeldomTray
              key={slip.id + shown}
              shown={shown}
              slip={slip}
              decide={decide}
              onAway={() => onAway([slip.id])}
              onClose={close}
            />
          )}
        </Keeps>
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
                    title: sentences.finishTheAnswerTo(slip.from),
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
      </Suspense>
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
          className="flex items-center gap-1.5 overflow-x-auto px-4 pt-2 text-[12px] max-[700px]:hidden max-[700px]:px-2"
          aria-label={sentences.combos}
          role="group"
        >
          {combos.map((c) => (
            <Button
              size="small"
              ground="line"
              key={c.id}
              className={buttons[c.size ?? 0]}
              disabled={!some}
              aria-expanded={c.steps.some((s) => s.ask) ? shown === `combo-${c.id}` : undefined}
              onClick={() => run(c)}
            >
              {c.key && <span className="text-[11px] text-ink-500">{keyName(c.key)}</span>}
              {c.name}
            </Button>
          ))}
        </div>
      )}
      <BarKeys side={<DockSide position={position} />}>
        {place !== 'bin' && (
          <DockKey id="bin" disabled={!some}>
            {sentences.bin(n)}
          </DockKey>
        )}
        {place !== 'archived' && (
          <DockKey id="archive" disabled={!some}>
            {sentences.archive(n)}
          </DockKey>
        )}
        {!many && (
          <DockKey id="reply" disabled={!some} on={shown === 'reply'} aside={two.clock}>
            {sentences.reply}
          </DockKey>
        )}
        {team > 0 && (
          <DockKey id="give" disabled={!some} on={shown === 'give'}>
            {sentences.giveTo}
          </DockKey>
        )}
        {!many && team > 0 && (
          <DockKey id="comment" disabled={!some} on={shown.startsWith('comment')}>
            {sentences.comment}
          </DockKey>
        )}
        {!many && !team && (
          <DockKey id="pass-on" wide disabled={!some} on={shown === 'pass-on'}>
            {sentences.handOver}
          </DockKey>
        )}
        {team > 0 && (
          <DockKey id="take" wide disabled={!some}>
            {!many && slip?.owner?.mine ? sentences.giveBack : sentences.take}
          </DockKey>
        )}
        <DockKey id="snooze" disabled={!some} on={shown === 'snooze'}>
          {sentences.snoozeNamed(n)}
        </DockKey>
        <DockKey id="follow-up" disabled={!some} on={shown === 'follow-up'}>
          {sentences.followUp}
        </DockKey>
        {!many && (
          <DockKey id="calendar" wide={!team} widest={team > 0} disabled={!some} on={shown === 'calendar'}>
            {sentences.calendar}
          </DockKey>
        )}
        <DockKey id="flag" widest disabled={!some} on={shown === 'flag'}>
          {sentences.flag}
        </DockKey>
        <DockKey id="label" widest={place !== 'inbox'} disabled={!some} on={shown === 'label'}>
          {sentences.label}
        </DockKey>
        {some && place !== 'inbox' && (
          <DockKey id="bring-back">{place === 'junk' ? sentences.notJunkNamed(n) : sentences.bringBack(n)}</DockKey>
        )}
        <DockKey id="star" disabled={!some} on={starred && some}>
          {sentences.star}
        </DockKey>
        <span className="contents min-[701px]:hidden">
          <DockKey id="palette">{sentences.more}</DockKey>
        </span>
        {sitting && (
          <DockKey id="leave" disabled={!some}>
            {sentences.leaveTitle}
          </DockKey>
        )}
      </BarKeys>
    </DecisionBar>
  )
}

/** How large the button of a combo is. */
const buttons = ['', 'px-3.5! py-1! text-[13.5px]!', 'px-5! py-2! text-[15px]!', 'px-7! py-3.5! text-[17px]!']

/** Stands where a tray will be that is still being fetched: it has the focus, so that what is typed decides nothing. */
const OnItsWay = ({ close }: { close: () => void }) => (
  <Tray label={sentences.onItsWay} busy layout="halves" onClose={close} />
)

/** The right end of a dock: where one is, or what was just done. On a narrow screen it is a line above it, while there is something to say. */
export function DockSide({ position }: { position?: ReactNode }) {
  const { notice } = useTold()
  const undo = useKey('take-back')
  const more = useKey('palette')
  return (
    <div
      className={cx(
        '@container ml-auto min-w-[88px] flex-1 pl-3 text-right text-[12px] leading-[1.35] text-ink-500',
        'max-[700px]:ml-0 max-[700px]:w-full max-[700px]:flex-none max-[700px]:py-1 max-[700px]:pl-1.5 max-[700px]:text-left',
        notice ? '' : 'max-[700px]:hidden',
      )}
    >
      <ToastPlace />
      {!notice && <b className="block whitespace-nowrap text-ink-900">{position}</b>}
      <span className="hidden whitespace-nowrap min-[701px]:@min-[180px]:inline">
        {sentences.takesBackForMore(undo, more.replace('Ctrl K', '.'))}
      </span>
    </div>
  )
}

const icons: Record<string, Icon> = {
  bin: TrashIcon,
  archive: ArchiveIcon,
  reply: ArrowBendUpLeftIcon,
  snooze: SunHorizonIcon,
  'follow-up': FlagPennantIcon,
  label: TagIcon,
  star: StarIcon,
  'bring-back': TrayArrowUpIcon,
  leave: ArrowRightIcon,
  palette: DotsThreeIcon,
  drop: XCircleIcon,
  finish: CheckCircleIcon,
  'put-off': ClockClockwiseIcon,
  change: PencilSimpleLineIcon,
  reopen: ArrowCounterClockwiseIcon,
  answer: ArrowBendUpLeftIcon,
  'hand-over': UserSwitchIcon,
  give: UserSwitchIcon,
  comment: ChatCircleIcon,
  take: TrayArrowUpIcon,
  'leave-open': ArrowRightIcon,
  'open-mail': EnvelopeOpenIcon,
  open: EnvelopeOpenIcon,
  'new-event': CalendarPlusIcon,
  'all-tomorrow': ArrowLineRightIcon,
}

interface KeyProps {
  id: string // of its command
  on?: boolean
  usual?: string[] // its usual keys, where the keymap does not know it
  wide?: boolean // has room only on a wide screen; its key and the palette stay
  widest?: boolean // the same on a wider one
  disabled?: boolean
  onClick?: () => void // what else than its command is done
  aside?: ReactNode // after its word
  children: ReactNode
}

/** A large key of the dock, with the key of its command, which it runs. */
export const DockKey = memo(function DockKey({
  id,
  on,
  usual,
  wide,
  widest,
  disabled,
  onClick,
  aside,
  children,
}: KeyProps) {
  const k = useKey(id, usual)
  const registry = useRegistry()
  const Icon = icons[id]
  return (
    <KeyButton
      keyed={k}
      icon={Icon && <Icon size={19} />}
      on={on}
      room={wide ? 'wide' : widest ? 'widest' : undefined}
      disabled={disabled}
      onClick={onClick ?? (() => registry.run(id))}
    >
      {children}
      {aside && <> {aside}</>}
    </KeyButton>
  )
})
