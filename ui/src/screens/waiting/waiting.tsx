import { useState } from 'react'
import { useNavigate } from 'react-router'
import { post, told } from '../../api/client'
import type { FollowUpView, Unanswered } from '../../api/desk'
import type { Moment, Rhythm } from '../../api/gen/when'
import { refresh, useClosing, useUnanswered, useWaiting } from '../../api/queries'
import { called } from '../../api/names'
import { date, due, now, span } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed, Waves } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { HandOverTray } from '../followups/handover'
import { asksAgain, PutOffTray, Source, withName } from '../followups/parts'
import { DockKey, DockSide } from '../worktop/dock'
import { IsIt } from './offer'
import { sentences } from './sentences'

type Tray = '' | 'hand-over' | 'ask'

/** What others owe the user: who, what, how long; an answer ends it, and what may be one is offered. */
export function WaitingScreen() {
  const list = useWaiting()
  const { data: closing } = useClosing()
  const asked = useUnanswered().data ?? []
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(() => fromAddress('at'))
  const [tray, setTray] = useState(() => fromAddress('tray') as Tray)
  const all = list.data?.pages.flatMap((p) => p.followUps) ?? []
  const index = Math.max(
    0,
    all.findIndex((f) => f.uid === chosen),
  )
  const current = all[index] as FollowUpView | undefined
  useInAddress({ at: current?.uid ?? '', tray }, (was) => {
    setChosen(was('at'))
    setTray(was('tray') as Tray)
  })
  const choose = (f?: FollowUpView) => {
    if (f) {
      setChosen(f.uid)
      setTray('')
      document.getElementById('waiting-' + f.uid)?.scrollIntoView({ block: 'nearest' })
    }
  }
  const step = (kind: string) => {
    if (current) {
      setChosen((all[index + 1] ?? all[index - 1])?.uid ?? '')
      void desk.step(current.uid, { kind, seen: 'open' })
    }
  }
  useCommands([
    { id: 'next', run: () => choose(all[index + 1]) },
    { id: 'previous', run: () => choose(all[index - 1]) },
    { id: 'first', run: () => choose(all[0]) },
    { id: 'last', run: () => choose(all.at(-1)) },
    ...(current
      ? [
          { id: 'open-followup', run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid)) },
          { id: 'drop', run: () => step('drop') },
          { id: 'finish', run: () => step('finish') },
          {
            id: 'hand-over',
            name: sentences.waitForSomebodyElse,
            run: () => setTray(tray === 'hand-over' ? '' : 'hand-over'),
          },
          { id: 'put-off', name: sentences.askAgainLater, run: () => setTray(tray === 'ask' ? '' : 'ask') },
          ...(current.conversation
            ? [
                {
                  id: 'answer',
                  name: sentences.draftAReminderTo,
                  run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid) + '?reply=remind'),
                },
              ]
            : []),
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
  ])
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loadingWhatYouWait} />
  if (!all.length && !asked.length)
    return <Empty title={sentences.youAreNotWaiting}>{sentences.aConversationOrFollow}</Empty>
  const ask = (at: Moment, rhythm?: Rhythm) => {
    setTray('')
    if (current) void desk.step(current.uid, { kind: 'wait', with: current.with, ask: at, rhythm, seen: 'open' })
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="px-[22px] pt-4 pb-2 max-[700px]:px-3">
        <Heading>{sentences.waiting}</Heading>
        <p className="text-ink-500">{sentences.waitingOnLongestFirst(list.data.pages[0].count)}</p>
      </div>
      <div className="min-h-0 overflow-y-auto px-[22px] pb-6 max-[700px]:px-3">
        <List label={sentences.waiting}>
          {all.map((f) => {
            const late = f.due.at > 0 && f.due.at < now()
            const asks = f.waits.ask.at
            return (
              <Row
                key={f.uid}
                id={'waiting-' + f.uid}
                title={f.title}
                current={f.uid === current?.uid}
                className="grid grid-cols-[180px_minmax(0,1fr)_auto] items-start gap-4 px-3 py-2.5 max-[700px]:grid-cols-[minmax(0,1fr)_auto]"
                onChoose={() => choose(f)}
                onOpen={() => void navigate('/follow-ups/' + encodeURIComponent(f.uid))}
              >
                <div className="min-w-0">
                  <b className="block truncate text-plum-600">{withName(f)}</b>
                  <span className="text-[12px] text-ink-500">
                    {sentences.forSince(span(now() - f.waits.since!), date(f.waits.since!))}
                  </span>
                </div>
                <div className="min-w-0 max-[700px]:col-span-full max-[700px]:row-start-2">
                  <p className="flex items-start gap-2 font-semibold break-words">
                    <span className="mt-0.5">
                      <Waves priority={f.priority} />
                    </span>
                    {f.title}
                  </p>
                  <Source f={f} />
                  {f.waits.offers?.map((o, i) => (
                    <div key={o.message} className="mt-1.5">
                      <IsIt uid={f.uid} offer={o} listens={f.uid === current?.uid && i === 0} />
                    </div>
                  ))}
                </div>
                <div className="flex flex-wrap justify-end gap-1.5">
                  {f.due.at > 0 && (
                    <Chip tone={late ? 'late' : 'plain'}>
                      {late ? sentences.lateWasDue : sentences.due}
                      {due(f.due)}
                    </Chip>
                  )}
                  {asks > 0 ? (
                    <Chip tone={asks < now() ? 'due' : 'plain'}>{asksAgain(f, due(f.waits.ask))}</Chip>
                  ) : f.card && !f.asking ? (
                    <Chip tone="due">{sentences.timeToAskAgain}</Chip>
                  ) : (
                    !f.asking && <Chip>{sentences.noDayToAsk}</Chip>
                  )}
                  {f.asking && <Chip tone={asks > 0 ? 'plain' : 'late'}>{f.asking}</Chip>}
                </div>
              </Row>
            )
          })}
        </List>
        {asked.length > 0 && <Asked asked={asked} />}
        {list.hasNextPage && (
          <TextButton className="mt-3" onClick={() => void list.fetchNextPage()}>
            {sentences.showMore}
          </TextButton>
        )}
      </div>
      <DecisionBar>
        {tray === 'hand-over' && current && (
          <HandOverTray
            f={current}
            onClose={() => setTray('')}
            onHand={(s) => {
              setTray('')
              void desk.step(current.uid, s)
            }}
          />
        )}
        {tray === 'ask' && current && closing && (
          <PutOffTray
            title={sentences.askThemAgain(withName(current))}
            rhythm
            days={closing.days}
            onClose={() => setTray('')}
            onDay={(d) => ask({ at: closing.days[d].start + 9 * 3_600_000 })}
            onTime={ask}
          />
        )}
        <BarKeys side={<DockSide position={sentences.of(index + 1, list.data.pages[0].count)} />}>
          <DockKey id="drop" disabled={!current} onClick={() => step('drop')}>
            {sentences.cancelIt}
          </DockKey>
          <DockKey id="finish" disabled={!current} onClick={() => step('finish')}>
            {sentences.finish}
          </DockKey>
          <DockKey
            id="hand-over"
            disabled={!current}
            on={tray === 'hand-over'}
            onClick={() => setTray(tray === 'hand-over' ? '' : 'hand-over')}
          >
            {sentences.somebodyElse}
          </DockKey>
          <DockKey
            id="put-off"
            disabled={!current}
            on={tray === 'ask'}
            onClick={() => setTray(tray === 'ask' ? '' : 'ask')}
          >
            {sentences.askLater}
          </DockKey>
        </BarKeys>
      </DecisionBar>
    </div>
  )
}

/** Questions of the user's own that nobody has answered: offered, so that they can be waited for. */
function Asked({ asked }: { asked: Unanswered[] }) {
  const desk = useDesk()
  const navigate = useNavigate()
  const wait = (u: Unanswered) =>
    void desk
      .decide({
        kind: 'follow-up',
        conversations: [u.conversation],
        followUp: {
          title: sentences.waitFor(called(u.to.name || u.to.address), u.subject),
          due: { at: 0 },
          priority: 5,
          keep: true,
          with: u.to,
          waits: { since: u.at, ask: { at: 0 }, only: true },
        },
      })
      .then(() => refresh(['followups']))
  const leave = (u: Unanswered) =>
    void post(`/waiting/unanswered/${u.message}/leave`)
      .then(() => refresh(['followups']))
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  return (
    <section aria-labelledby="asked" className="mt-6" data-testid="asked">
      <h2 id="asked" className="mb-1 text-[15px] tracking-[-.01em]">
        {sentences.youAskedAndNobody}
      </h2>
      <p className="mb-1 text-ink-500">{sentences.questionsYouSentA}</p>
      {asked.map((u) => (
        <div
          key={u.message}
          className={cx(
            'grid grid-cols-[180px_minmax(0,1fr)_auto] items-start gap-4 border-b border-sand-200 px-3 py-2.5',
            'max-[700px]:grid-cols-1 max-[700px]:gap-2.5',
          )}
        >
          <div className="min-w-0">
            <b className="block truncate">{u.to.name || u.to.address}</b>
            <span className="text-[12px] text-ink-500">{sentences.ago(span(now() - u.at), date(u.at))}</span>
          </div>
          <div className="min-w-0">
            <p className="truncate">“{u.asked}”</p>
            <TextButton
              tone="faint"
              small
              className="max-w-full truncate"
              onClick={() => void navigate('/c/' + u.conversation)}
            >
              {u.subject}
            </TextButton>
          </div>
          <div className="flex flex-wrap gap-x-3 gap-y-3.5 text-[12.5px]">
            <TextButton small onClick={() => wait(u)}>
              {sentences.waitForIt}
            </TextButton>
            <TextButton small onClick={() => void navigate(`/c/${u.conversation}?write=remind`)}>
              {sentences.remindThem}
            </TextButton>
            <TextButton tone="faint" onClick={() => leave(u)}>
              {sentences.noAnswerNeeded}
            </TextButton>
          </div>
        </div>
      ))}
    </section>
  )
}
