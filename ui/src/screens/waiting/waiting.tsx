import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { Heading } from '../../kit/heading'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { FollowUpView, Unanswered } from '../../api/desk'
import { useClosing, useUnanswered, useWaiting } from '../../api/queries'
import { date, due, now, span } from '../../api/times'
import { Chip, Empty, Failed, Waves } from '../../kit/kit'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { post, told } from '../../api/client'
import { refresh } from '../../api/queries'
import { DockKey, DockSide } from '../worktop/dock'
import { HandOverTray } from '../followups/handover'
import { Source, withName, PutOffTray } from '../followups/parts'
import { TextButton } from '../../kit/button'

/** What others owe the user: who, what, how long; a message from them ends it. */
export function WaitingScreen() {
  const list = useWaiting()
  const { data: closing } = useClosing()
  const asked = useUnanswered().data ?? []
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<string>()
  const [tray, setTray] = useState<'' | 'hand-over' | 'ask'>('')
  const all = list.data?.pages.flatMap((p) => p.followUps) ?? []
  const index = Math.max(
    0,
    all.findIndex((f) => f.uid === chosen),
  )
  const current = all[index] as FollowUpView | undefined
  const choose = (f?: FollowUpView) => {
    if (f) {
      setChosen(f.uid)
      setTray('')
      document.getElementById('waiting-' + f.uid)?.scrollIntoView({ block: 'nearest' })
    }
  }
  const step = (kind: string) => {
    if (current) {
      setChosen((all[index + 1] ?? all[index - 1])?.uid)
      void desk.step(current.uid, { kind, seen: 'open' })
    }
  }
  useCommands([
    { id: 'next', run: () => choose(all[index + 1]) },
    { id: 'previous', run: () => choose(all[index - 1]) },
    ...(current
      ? [
          { id: 'open-followup', run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid)) },
          { id: 'drop', run: () => step('drop') },
          { id: 'finish', run: () => step('finish') },
          {
            id: 'hand-over',
            name: 'Wait for somebody else',
            run: () => setTray(tray === 'hand-over' ? '' : 'hand-over'),
          },
          { id: 'put-off', name: 'Ask again later', run: () => setTray(tray === 'ask' ? '' : 'ask') },
          ...(current.conversation
            ? [
                {
                  id: 'answer',
                  name: 'Draft a reminder to them',
                  run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid) + '?reply=remind'),
                },
              ]
            : []),
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
  ])
  if (list.error) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what="Loading what you wait for" />
  if (!all.length && !asked.length)
    return (
      <Empty title="You are not waiting for anyone">
        A conversation or follow-up you hand over, or wait for an answer to, stands here with whom and how long. A
        message from them ends it.
      </Empty>
    )
  const ask = (at: { at: number }) => {
    setTray('')
    if (current) void desk.step(current.uid, { kind: 'wait', with: current.with, ask: at, seen: 'open' })
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="px-[22px] pt-4 pb-2 max-[700px]:px-3">
        <Heading>Waiting</Heading>
        <p className="text-ink-500">
          Waiting on {list.data.pages[0].count}, longest first. An answer ends the waiting, and Ebbe tells you.
        </p>
      </div>
      <div className="min-h-0 overflow-y-auto px-[22px] pb-6 max-[700px]:px-3">
        <List label="Waiting">
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
                    for {span(now() - f.waits.since!)}, since {date(f.waits.since!)}
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
                </div>
                <div className="flex flex-wrap justify-end gap-1.5">
                  {f.due.at > 0 && (
                    <Chip tone={late ? 'late' : 'plain'}>
                      {late ? 'late, was due ' : 'due '}
                      {due(f.due)}
                    </Chip>
                  )}
                  {asks > 0 ? (
                    <Chip tone={asks < now() ? 'due' : 'plain'}>ask again {due(f.waits.ask)}</Chip>
                  ) : f.card ? (
                    <Chip tone="due">time to ask again</Chip>
                  ) : (
                    <Chip>no day to ask again</Chip>
                  )}
                </div>
              </Row>
            )
          })}
        </List>
        {asked.length > 0 && <Asked asked={asked} />}
        {list.hasNextPage && (
          <TextButton className="mt-3" onClick={() => void list.fetchNextPage()}>
            Show more
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
            title={`Ask ${withName(current)} again.`}
            days={closing.days}
            onClose={() => setTray('')}
            onDay={(d) => ask({ at: closing.days[d].start + 9 * 3_600_000 })}
            onTime={ask}
          />
        )}
        <BarKeys>
          <DockKey id="drop" disabled={!current} onClick={() => step('drop')}>
            Cancel it
          </DockKey>
          <DockKey id="finish" disabled={!current} onClick={() => step('finish')}>
            Finish
          </DockKey>
          <DockKey
            id="hand-over"
            disabled={!current}
            on={tray === 'hand-over'}
            onClick={() => setTray(tray === 'hand-over' ? '' : 'hand-over')}
          >
            Somebody else
          </DockKey>
          <DockKey
            id="put-off"
            disabled={!current}
            on={tray === 'ask'}
            onClick={() => setTray(tray === 'ask' ? '' : 'ask')}
          >
            Ask later
          </DockKey>
          <DockSide position={`${index + 1} of ${list.data.pages[0].count}`} />
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
          title: `Wait for ${(u.to.name || u.to.address).split(' ')[0]}: ${u.subject}`,
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
        You asked, and nobody answered
      </h2>
      <p className="mb-1 text-ink-500">
        Questions you sent a few working days ago that nobody answered and you are not tracking.
      </p>
      {asked.map((u) => (
        <div
          key={u.message}
          className="grid grid-cols-[180px_minmax(0,1fr)_auto] items-start gap-4 border-b border-sand-200 px-3 py-2.5 max-[700px]:grid-cols-1 max-[700px]:gap-1"
        >
          <div className="min-w-0">
            <b className="block truncate">{u.to.name || u.to.address}</b>
            <span className="text-[12px] text-ink-500">
              {span(now() - u.at)} ago, {date(u.at)}
            </span>
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
          <div className="flex gap-3 text-[12.5px]">
            <TextButton small onClick={() => wait(u)}>
              Wait for it
            </TextButton>
            <TextButton small onClick={() => void navigate(`/c/${u.conversation}?write=remind`)}>
              Remind them
            </TextButton>
            <TextButton tone="faint" onClick={() => leave(u)}>
              No answer needed
            </TextButton>
          </div>
        </div>
      ))}
    </section>
  )
}
