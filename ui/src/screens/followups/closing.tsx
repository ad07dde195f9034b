import { useState } from 'react'
import { useNavigate } from 'react-router'
import { post } from '../../api/client'
import type { ClosingItem } from '../../api/desk'
import { refresh, useClosing } from '../../api/queries'
import { date, minutes, plural, weekday } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Chip, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { DockKey, DockSide } from '../worktop/dock'
import { Facts, PutOffTray, Source } from './parts'
import { sentences } from './sentences'

/** Closing the day: what is left of it is moved, one by one or together, or cancelled, on purpose. */
export function CloseDay() {
  const { data, error, refetch } = useClosing()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(() => fromAddress('at'))
  const [tray, setTray] = useState(() => fromAddress('tray') === 'put-off')
  const items = data?.items ?? []
  const found = items.findIndex((i) => i.uid === chosen)
  const index = Math.max(0, found)
  const current = items[index] as ClosingItem | undefined
  useInAddress({ at: current?.uid ?? '', tray: tray ? 'put-off' : '' }, (was) => {
    setChosen(was('at'))
    setTray(was('tray') === 'put-off')
  })
  const next = () => setChosen((items[index + 1] ?? items[index - 1])?.uid ?? '')
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
    { id: 'first', run: () => choose(items[0]) },
    { id: 'last', run: () => choose(items.at(-1)) },
    { id: 'back', run: leave },
    ...(current
      ? [
          { id: 'drop', run: () => step('drop') },
          { id: 'finish', run: () => step('finish') },
          { id: 'put-off', run: () => setTray(!tray) },
          ...current.free.map((day, n) => ({
            id: 'free-' + n,
            name: sentences.moveItTo(dayName(day, data!.days)),
            keys: [String(n + 6)],
            run: () => move(current, { day }),
          })),
          { id: 'open-followup', run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid)) },
          { id: 'all-tomorrow', name: sentences.moveAllToThe, keys: ['9'], run: tomorrow },
        ]
      : []),
    ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(false), hidden: true }] : []),
  ])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheDay} />
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
        <Heading className="mb-2">{sentences.theDayIsClosed}</Heading>
        <p className="mb-6 text-[15px] text-ink-700">
          {data.done
            ? sentences.finishedTodayNothingLeft(plural(data.done, sentences.followUp))
            : sentences.nothingIsLeftOf}
        </p>
        <Button autoFocus onClick={leave}>
          {sentences.toTheInbox}
        </Button>
      </div>
    )
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="flex flex-wrap items-end gap-4 px-[22px] pt-4 pb-2 max-[700px]:px-3">
        <div className="min-w-0 flex-1">
          <Heading>{sentences.closeTheDay}</Heading>
          <p className="text-ink-500">
            {sentences.leftForTodayEach(
              plural(items.length, sentences.followUp),
              data.done ? sentences.finished(data.done) : '',
            )}
          </p>
        </div>
      </div>
      <List label={sentences.leftForToday} className="min-h-0 overflow-y-auto px-[22px] pb-6 max-[700px]:px-3">
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
                {(i.moved ?? 0) === 2 && <Chip tone="due">{sentences.thirdTimeYouMove}</Chip>}
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
                  title={sentences.openThere(data.days[day].open, minutes(data.days[day].load))}
                  onClick={(e) => {
                    e.stopPropagation()
                    move(i, { day })
                  }}
                >
                  {dayName(day, data.days)}{' '}
                  <span className="font-normal text-ink-500">
                    {data.days[day].open ? sentences.open(data.days[day].open) : sentences.free}
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
        <BarKeys side={<DockSide position={sentences.placeOf(index + 1, items.length)} />}>
          <DockKey id="drop" onClick={() => step('drop')}>
            {sentences.cancelIt}
          </DockKey>
          <DockKey id="finish" onClick={() => step('finish')}>
            {sentences.finishTitle}
          </DockKey>
          <DockKey id="put-off" on={tray} onClick={() => setTray(!tray)}>
            {sentences.putOffTitle}
          </DockKey>
          {current?.free.map((day, n) => (
            <DockKey key={day} id={'free-' + n} usual={[String(n + 6)]} onClick={() => move(current, { day })}>
              {dayName(day, data.days)}
            </DockKey>
          ))}
          <DockKey id="all-tomorrow" usual={['9']} onClick={tomorrow}>
            {sentences.allTo(dayName(workday(data.days), data.days))}
          </DockKey>
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
