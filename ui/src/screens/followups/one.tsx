import { useEffect, useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import type { FollowUpView } from '../../api/desk'
import type { Query } from '../../api/gen/search'
import { useClosing, useConversation, useFollowUp, useOneByOne } from '../../api/queries'
import { putSlips, useSlip } from '../../api/slips'
import { plural } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Tray } from '../../kit/tray'
import { Conversation } from '../worktop/conversation'
import { DockKey, DockSide } from '../worktop/dock'
import { WriteTray } from '../worktop/reply'
import { useTwoMinutes } from '../worktop/twominutes'
import { HandOverTray } from './handover'
import { Panel } from './panel'
import { canKeepWaiting, Facts, isOpen, isWaiting, PutOffTray } from './parts'
import { sentences } from './sentences'

type Shown = '' | 'put-off' | 'hand-over' | 'reply' | 'answered'
type Done = 'finished' | 'put-off' | 'waiting' | 'cancelled' | 'left'
const doneWords: Record<Done, (n: number) => string> = {
  finished: sentences.nFinished,
  'put-off': sentences.nPutOff,
  waiting: sentences.nWaiting,
  cancelled: sentences.nCancelled,
  left: sentences.nLeft,
}

/** A follow-up beside its live conversation, wherever that lies. */
export function OneFollowUp() {
  const uid = useParams().uid ?? ''
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const { data, error, refetch } = useFollowUp(uid)
  const back = () => void (window.history.length > 1 ? navigate(-1) : navigate('/follow-ups'))
  useCommands([{ id: 'back', run: back }])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheFollowUp} />
  return (
    <Desk
      key={uid}
      f={data}
      reply={params.get('reply') ?? ''}
      position={sentences.escapeGoesBack}
      onDone={(done) => {
        if (done !== 'left') back()
      }}
    />
  )
}

/** Goes through what is due, or what a view shows, one after the other; at the end, a sum. */
export function OneByOne() {
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const filter = useMemo<Query>(() => {
    try {
      return JSON.parse(params.get('filter') ?? '{}') as Query
    } catch {
      return {}
    }
  }, [params])
  const { data: queue, error, refetch } = useOneByOne(filter)
  const [all, fix] = useState<FollowUpView[]>() // what is gone through stays as it was at the beginning
  if (queue && !all) fix(queue)
  const [at, setAt] = useState(0)
  const [sum, setSum] = useState<Record<Done, number>>({
    finished: 0,
    'put-off': 0,
    waiting: 0,
    cancelled: 0,
    left: 0,
  })
  const uid = all?.[at]?.uid ?? ''
  const { data: live } = useFollowUp(uid)
  const done = (d: Done) => {
    setSum((s) => ({ ...s, [d]: s[d] + 1 }))
    setAt((n) => n + 1)
  }
  const end = () => void navigate('/follow-ups')
  useCommands([{ id: 'back', name: sentences.endGoingThroughThem, run: end }])
  if (error && !queue) return <Failed error={error} again={() => void refetch()} />
  if (!all) return <Loading what={sentences.loadingTheFollowUps} />
  if (!all.length) return <Empty title={sentences.nothingIsDue}>{sentences.hereYouGoThrough}</Empty>
  if (at >= all.length) {
    const said = (Object.entries(sum) as [Done, number][]).filter(([, n]) => n > 0).map(([d, n]) => doneWords[d](n))
    return (
      <div className="mx-auto max-w-lg px-6 py-16 text-center" data-testid="sum">
        <svg
          width="220"
          height="44"
          viewBox="0 0 220 44"
          className="mx-auto mb-5"
          fill="none"
          stroke="var(--tide-400)"
          strokeWidth="2.2"
          strokeLinecap="round"
          aria-hidden
        >
          <path d="M6 16c24 0 24-9 48-9s24 9 48 9 24-9 48-9 24 9 48 9" />
          <path d="M40 34c17 0 17-6 34-6s17 6 34 6 17-6 34-6 17 6 34 6" opacity=".5" />
        </svg>
        <Heading className="mb-2">{sentences.goneThrough(plural(all.length, sentences.followUp))}</Heading>
        <p className="mb-6 text-[15px] text-ink-700">{said.join(', ') || sentences.nothingWasDone}.</p>
        <Button autoFocus onClick={end}>
          {sentences.backToTheFollow}
        </Button>
      </div>
    )
  }
  const f = live ?? all[at]
  return <Desk key={f.uid} f={f} one position={sentences.placeOf(at + 1, all.length)} onDone={done} />
}

interface DeskProps {
  f: FollowUpView
  one?: boolean
  reply?: string
  position: string
  onDone: (d: Done) => void
}

function Desk({ f, one, reply, position, onDone }: DeskProps) {
  const desk = useDesk()
  const navigate = useNavigate()
  const { data: closing } = useClosing()
  const [tray, setTray] = useState<Shown>(() =>
    reply && f.conversation ? 'reply' : one ? '' : (fromAddress('tray') as Shown),
  )
  useInAddress({ tray: tray === 'answered' ? '' : tray }, (was) => setTray(was('tray') as Shown))
  const conversation = useConversation(f.conversation || undefined)
  useEffect(() => {
    if (conversation.data) putSlips([conversation.data.slip])
  }, [conversation.data])
  const slip = useSlip(f.conversation || undefined) ?? conversation.data?.slip
  const two = useTwoMinutes(f.conversation || undefined)
  const open = isOpen(f)
  const step = (kind: string, done: Done) =>
    void desk.step(f.uid, { kind, seen: 'open' }).then((d) => d && onDone(done))
  const putOff = (to: { day?: number; to?: { at: number } }) => {
    setTray('')
    void desk.step(f.uid, { kind: 'put-off', ...to, seen: 'open' }).then((d) => d && one && onDone('put-off'))
  }
  const toggle = (t: Shown) => setTray(tray === t ? '' : t)
  const keepWaiting = () => void desk.step(f.uid, { kind: 'keep-waiting' })
  useCommands([
    ...(canKeepWaiting(f) ? [{ id: 'keep-waiting', run: keepWaiting }] : []),
    ...(open
      ? [
          { id: 'drop', run: () => step('drop', 'cancelled') },
          { id: 'finish', run: () => step('finish', 'finished') },
          { id: 'hand-over', run: () => toggle('hand-over') },
          { id: 'put-off', run: () => toggle('put-off') },
          ...(f.conversation ? [{ id: 'answer', run: () => toggle('reply') }] : []),
          ...(one ? [{ id: 'leave-open', run: () => onDone('left') }] : []),
        ]
      : [{ id: 'reopen', run: () => void desk.step(f.uid, { kind: 'reopen' }) }]),
    ...(f.conversation
      ? [
          {
            id: 'open-mail',
            name: sentences.openItsMailOn,
            keys: ['Enter'],
            run: () => void navigate('/c/' + f.conversation),
          },
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
  ])
  return (
    <div
      className={cx(
        'grid h-full grid-cols-[360px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]',
        'max-[900px]:grid-cols-1 max-[900px]:grid-rows-[auto_minmax(0,1fr)_auto]',
      )}
    >
      <section
        aria-label={sentences.followUpTitle}
        className="min-h-0 overflow-y-auto border-r border-sand-200 bg-sand-50 px-4 py-4 max-[900px]:max-h-[42vh]"
      >
        <Heading size="middle" testid="followup-title">
          {f.title}
        </Heading>
        <p className="mt-2 mb-3 flex flex-wrap items-center gap-1.5">
          <Facts f={f} />
        </p>
        {(f.moved ?? 0) >= 3 && (
          <p className="mb-3 rounded-[9px] bg-coral-100 px-3 py-2 text-[12.5px] text-coral-600">
            {sentences.itWasPutOff} {f.moved} {sentences.timesWhenTheDay}
          </p>
        )}
        <Panel f={f} />
      </section>
      <div
        className={`min-h-0 ${f.conversation ? 'grid grid-cols-[minmax(0,1fr)_232px] max-[1060px]:grid-cols-1' : ''}`}
      >
        {f.conversation ? (
          <Conversation
            id={f.conversation}
            slip={slip}
            edit={(t) => {
              if (t === 'reply') setTray('reply')
              else void navigate('/c/' + f.conversation)
            }}
          />
        ) : (
          <Empty title={f.message ? sentences.itsMessageIsNot : sentences.notLinkedToAny}>
            {f.message ? sentences.theFollowUpStays : sentences.itsDetailsAreOn}
          </Empty>
        )}
      </div>
      <DecisionBar>
        {tray === 'reply' && slip && (
          <WriteTray
            key={slip.id}
            slip={slip}
            as={reply === 'remind' ? 'remind' : 'reply'}
            two={two}
            place={slip.position.place}
            onClose={() => setTray('')}
            onRest={() => setTray('')}
            onSent={() => {
              setTray(open && !isWaiting(f) ? 'answered' : '')
              two.stop()
            }}
          />
        )}
        {tray === 'answered' && open && (
          <Tray label={sentences.answeredIsItDone} testid="answered-tray" layout="middle" onClose={() => setTray('')}>
            <p className="font-semibold">{sentences.answeredIsItDone}</p>
            <Button autoFocus onClick={() => step('finish', 'finished')}>
              {sentences.yesFinished}
            </Button>
            <Button quiet onClick={() => setTray('hand-over')}>
              {sentences.noWaitForThem}
            </Button>
            <Button quiet onClick={() => setTray('')}>
              {sentences.noItStays}
            </Button>
          </Tray>
        )}
        {tray === 'put-off' && closing && (
          <PutOffTray
            title={f.title}
            days={closing.days}
            onClose={() => setTray('')}
            onDay={(day) => putOff({ day })}
            onTime={(to) => putOff({ to })}
          />
        )}
        {tray === 'hand-over' && (
          <HandOverTray
            f={f}
            onClose={() => setTray('')}
            onHand={(s) => {
              setTray('')
              void desk.step(f.uid, s).then((d) => d && one && onDone('waiting'))
            }}
          />
        )}
        <BarKeys side={<DockSide position={position} />}>
          {!open ? (
            <DockKey id="reopen" onClick={() => void desk.step(f.uid, { kind: 'reopen' })}>
              {sentences.openAgainTitle}
            </DockKey>
          ) : (
            <>
              <DockKey id="drop" onClick={() => step('drop', 'cancelled')}>
                {sentences.cancelIt}
              </DockKey>
              <DockKey id="finish" onClick={() => step('finish', 'finished')}>
                {sentences.finishTitle}
              </DockKey>
              {f.conversation > 0 && (
                <DockKey id="answer" on={tray === 'reply'} onClick={() => toggle('reply')}>
                  {sentences.reply} {two.clock}
                </DockKey>
              )}
              <DockKey id="hand-over" on={tray === 'hand-over'} onClick={() => toggle('hand-over')}>
                {sentences.waitFor}
              </DockKey>
              <DockKey id="put-off" on={tray === 'put-off'} onClick={() => toggle('put-off')}>
                {sentences.putOffTitle}
              </DockKey>
              {canKeepWaiting(f) && (
                <DockKey id="keep-waiting" onClick={keepWaiting}>
                  {sentences.keepWaiting}
                </DockKey>
              )}
              {one && (
                <DockKey id="leave-open" onClick={() => onDone('left')}>
                  {sentences.leave}
                </DockKey>
              )}
            </>
          )}
        </BarKeys>
      </DecisionBar>
    </div>
  )
}
