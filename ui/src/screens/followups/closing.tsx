import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { Heading } from '../../kit/heading'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { ClosingItem } from '../../api/desk'
import { post } from '../../api/client'
import { refresh, useClosing } from '../../api/queries'
import { date, minutes, plural, weekday } from '../../api/times'
import { Button } from '../../kit/button'
import { Chip, Failed } from '../../kit/kit'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { DockKey, DockSide } from '../worktop/dock'
import { Facts, PutOffTray, Source } from './parts'

/** Closing the day: what is left of it is moved, one by one or together, or cancelled, on purpose. */
export function CloseDay() {
  const { data, error, refetch } = useClosing()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<string>()
  const [tray, setTray] = useState(false)
  const items = data?.items ?? []
  const found = items.findIndex((i) => i.uid === chosen)
  const index = Math.max(0, found)
  const current = items[index] as ClosingItem | undefined
  const next = () => setChosen((items[index + 1] ?? items[index - 1])?.uid)
  const choose = (i?: ClosingItem) => {
    if (i) {
      setChosen(i.uid)
      setTray(false)
      document.getElementById('closing-' + i.uid)?.scrollIntoView({ block: 'nearest' })
    }
  }
  const step = (kind: string) => {
    if (current) {
      next()
      void desk.step(current.uid, { kind, seen: 'open' })
    }
  }
  const move = (i: ClosingItem, to: { day?: number; to?: { at: number } }) => {
    setTray(false)
    if (i.uid === current?.uid) next()
    void desk.step(i.uid, { kind: 'put-off', ...to, closing: true, seen: 'open' })
  }
  const closed = () => void post('/follow-ups/closed').then(() => refresh(['cards']))
  const tomorrow = () => {
    if (items.length)
      void desk
        .step(
          items.map((i) => i.uid),
          { kind: 'put-off', day: workday(data!.days), closing: true, seen: 'open' },
        )
        .then(closed)
  }
  const leave = () => {
    closed()
    void navigate('/')
  }
  useCommands([
    { id: 'next', run: () => choose(items[index + 1]) },
    { id: 'previous', run: () => choose(items[index - 1]) },
    { id: 'back', run: leave },
    ...(current
      ? [
          { id: 'drop', run: () => step('drop') },
          { id: 'finish', run: () => step('finish') },
          { id: 'put-off', run: () => setTray(!tray) },
          ...current.free.map((day, n) => ({
            id: 'free-' + n,
            name: `Move it to ${dayName(day, data!.days)}`,
            keys: [String(n + 6)],
            run: () => move(current, { day }),
          })),
          { id: 'open-followup', run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid)) },
          { id: 'all-tomorrow', name: 'Move all to the next working day', keys: ['9'], run: tomorrow },
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(false), hidden: true }] : []),
  ])
  if (error) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what="Loading the day" />
  if (!items.length) {
    return (
      <div className="mx-auto max-w-lg px-6 py-16 text-center" data-testid="closed">
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
        <Heading className="mb-2">The day is closed</Heading>
        <p className="mb-6 text-[15px] text-ink-700">
          {data.done ? `${plural(data.done, 'follow-up')} finished today, nothing left.` : 'Nothing is left of it.'}
        </p>
        <Button autoFocus onClick={leave}>
          To the inbox
        </Button>
      </div>
    )
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="flex flex-wrap items-end gap-4 px-[22px] pt-4 pb-2 max-[700px]:px-3">
        <div className="min-w-0 flex-1">
          <Heading>Close the day</Heading>
          <p className="text-ink-500">
            {plural(items.length, 'follow-up')} left for today{data.done ? `, ${data.done} finished` : ''}. Each goes to
            a day with room for it, or is cancelled, on purpose.
          </p>
        </div>
      </div>
      <List label="Left for today" className="min-h-0 overflow-y-auto px-[22px] pb-6 max-[700px]:px-3">
        {items.map((i) => (
          <Row
            key={i.uid}
            id={'closing-' + i.uid}
            title={i.title}
            current={i.uid === current?.uid}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-6 gap-y-1.5 px-3 py-2.5 max-[700px]:grid-cols-1"
            onChoose={() => choose(i)}
          >
            <div className="min-w-0">
              <p className="font-semibold break-words">{i.title}</p>
              <p className="mt-1 flex flex-wrap items-center gap-1.5">
                <Facts f={i} />
                {(i.moved ?? 0) === 2 && <Chip tone="due">third time you move it</Chip>}
              </p>
              <Source f={i} />
            </div>
            <div className="flex flex-wrap items-center gap-1.5">
              {i.free.map((day) => (
                <Button
                  size="small"
                  ground="quiet"
                  key={day}
                  data-free={day}
                  title={`${data.days[day].open} open there, ${minutes(data.days[day].load)}`}
                  onClick={(e) => {
                    e.stopPropagation()
                    move(i, { day })
                  }}
                >
                  {dayName(day, data.days)}{' '}
                  <span className="font-normal text-ink-500">
                    {data.days[day].open ? `${data.days[day].open} open` : 'free'}
                  </span>
                </Button>
              ))}
            </div>
          </Row>
        ))}
      </List>
      <DecisionBar>
        {tray && current && (
          <PutOffTray
            title={current.title}
            days={data.days}
            onClose={() => setTray(false)}
            onDay={(day) => move(current, { day })}
            onTime={(to) => move(current, { to })}
            onNoDate={() => move(current, { to: { at: 0 } })}
          />
        )}
        <BarKeys>
          <DockKey id="drop" onClick={() => step('drop')}>
            Cancel it
          </DockKey>
          <DockKey id="finish" onClick={() => step('finish')}>
            Finish
          </DockKey>
          <DockKey id="put-off" on={tray} onClick={() => setTray(!tray)}>
            Put off
          </DockKey>
          {current?.free.map((day, n) => (
            <DockKey key={day} id={'free-' + n} usual={[String(n + 6)]} onClick={() => move(current, { day })}>
              {dayName(day, data.days)}
            </DockKey>
          ))}
          <DockKey id="all-tomorrow" usual={['9']} onClick={tomorrow}>
            All to {dayName(workday(data.days), data.days)}
          </DockKey>
          <DockSide position={`${index + 1} of ${items.length}`} />
        </BarKeys>
      </DecisionBar>
    </div>
  )
}

/** The next working day, counted from today. */
const workday = (days: { off: boolean }[]) =>
  Math.max(
    1,
    days.findIndex((d, i) => i > 0 && !d.off),
  )

const dayName = (n: number, days: { start: number }[]) =>
  n === 1 ? 'tomorrow' : n < 7 ? weekday(days[n].start) : date(days[n].start).replace(/^\w+ /, '')
