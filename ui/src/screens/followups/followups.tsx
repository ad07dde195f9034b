import { List, MoreRow } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { Heading } from '../../kit/heading'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { TabList, TabPanel, Tabs } from '../../kit/choose'
import { useMemo, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import {
  DndContext,
  DragOverlay,
  MouseSensor,
  pointerWithin,
  TouchSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core'
import type { FollowUpGroup, FollowUpView } from '../../api/desk'
import type { Filter, Stage } from '../../api/gen/followup'
import { put, told } from '../../api/client'
import { moreFollowUps, refresh, useFollowUps, useFollowUpSettings, useLabels } from '../../api/queries'
import { Button, IconButton, TextButton } from '../../kit/button'
import { Chip, Empty, Failed, priorityName, Waves } from '../../kit/kit'
import { LineField, toNew } from '../../kit/line'
import { SCREEN, useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { DockKey, DockSide } from '../worktop/dock'
import { Days } from './days'
import { HandOverTray } from './handover'
import { FilterTray } from './filter'
import { filterWords } from './words'
import { isOpen, Line, PutOffTray } from './parts'
import { PanelTray } from './panel'

const bys = [
  ['date', 'By date'],
  ['stage', 'By stage'],
  ['project', 'By project'],
  ['person', 'By person'],
  ['priority', 'By priority'],
  ['label', 'By label'],
] as const
const dateNames: Record<string, string> = {
  late: 'Late',
  today: 'Today',
  tomorrow: 'Tomorrow',
  'this-week': 'This week',
  'next-weeks': 'Next weeks',
  'no-date': 'No date',
}
const REMEMBERED = 'ebbe-followups-by'
type Tray = '' | 'put-off' | 'hand-over' | 'change' | 'filter'

/** Tracked work: arranged, filtered, moved to days and through stages. */
export function FollowUps() {
  const [params, setParams] = useSearchParams()
  const by = params.get('by') ?? localStorage.getItem(REMEMBERED) ?? 'date'
  const filterText = params.get('filter') ?? ''
  const filter = useMemo<Filter>(() => {
    try {
      return JSON.parse(filterText || '{}') as Filter
    } catch {
      return {}
    }
  }, [filterText])
  const list = useFollowUps(by, filter)
  const { data: settings } = useFollowUpSettings()
  const { data: labels } = useLabels()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<string>()
  const [tray, setTray] = useState<Tray>('')
  const [dragged, setDragged] = useState<FollowUpView>()
  const [more, setMore] = useState<{ of: unknown; groups: Record<string, FollowUpGroup> }>({ of: null, groups: {} })
  const [place, setPlace] = useState(0) // where the current one stood, for when it goes
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 8 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 8 } }),
  )
  const data = list.data
  const groups = useMemo(
    () =>
      (data?.groups ?? []).map((g) => {
        const extra = more.of === data ? more.groups[g.key] : undefined
        return extra ? { ...g, loaded: true, followUps: [...g.followUps, ...extra.followUps], next: extra.next } : g
      }),
    [data, more],
  )
  const all = useMemo(() => groups.flatMap((g) => g.followUps), [groups])
  const found = all.findIndex((f) => f.uid === chosen)
  const index = found >= 0 ? found : Math.min(place, all.length - 1)
  const current = all[index] as FollowUpView | undefined
  if (index >= 0 && index !== place) setPlace(index)
  const open = !!current && isOpen(current)

  const show = (nextBy: string, n: Filter) => {
    localStorage.setItem(REMEMBERED, nextBy)
    setParams(Object.keys(n).length ? { by: nextBy, filter: JSON.stringify(n) } : { by: nextBy }, { replace: true })
  }
  const choose = (f?: FollowUpView) => {
    if (!f) return
    setChosen(f.uid)
    setTray('')
    document.getElementById('followup-' + f.uid)?.scrollIntoView({ block: 'nearest' })
  }
  const lane = (by: number) => {
    const g = groups.findIndex((g) => g.followUps.some((f) => f.uid === current?.uid))
    const row = groups[g]?.followUps.findIndex((f) => f.uid === current?.uid) ?? 0
    for (let i = g + by; i >= 0 && i < groups.length; i += by) {
      const to = groups[i].followUps
      if (to.length) return choose(to[Math.min(row, to.length - 1)])
    }
  }
  const step = (kind: string, f = current) => {
    if (!f) return
    setTray('')
    if (f.uid === current?.uid && kind !== 'reopen') setChosen((all[index + 1] ?? all[index - 1])?.uid)
    void desk.step(f.uid, { kind, seen: kind === 'reopen' ? 'finished' : 'open' })
  }
  const stages = settings?.stages ?? []
  const stageOf = (f: FollowUpView) =>
    stages.findIndex((s) => s.id === (groups.find((g) => g.followUps.includes(f))?.key ?? f.stage))
  const toStage = (by: number) => {
    if (!current || !stages.length) return
    const at = Math.max(
      0,
      stages.findIndex((s) => s.id === (current.stage || stages[0].id)),
    )
    const to = stages[(open ? at : stages.length - 1) + by]
    if (to) void desk.step(current.uid, { kind: 'stage', stage: to.id, seen: open ? 'open' : 'finished' })
  }
  const openOne = (f = current) => {
    if (f) void navigate('/follow-ups/' + encodeURIComponent(f.uid))
  }
  const oneByOne = () => void navigate('/one-by-one' + (filterText ? '?filter=' + encodeURIComponent(filterText) : ''))
  const toggle = (t: Tray) => setTray(tray === t ? '' : t)
  useCommands(
    [
      { id: 'next', run: () => choose(all[index + 1]) },
      { id: 'previous', run: () => choose(all[index - 1]) },
      { id: 'first', run: () => choose(all[0]) },
      { id: 'last', run: () => choose(all.at(-1)) },
      { id: 'lane-right', run: () => lane(1), hidden: true },
      { id: 'lane-left', run: () => lane(-1), hidden: true },
      { id: 'filter', run: () => toggle('filter') },
      { id: 'one-by-one', run: oneByOne },
      { id: 'next-view', run: () => show(bys[(bys.findIndex((b) => b[0] === by) + 1) % bys.length][0], filter) },
      ...bys.map(([id, name]) => ({
        id: 'by-' + id,
        name: 'Follow-ups ' + name.toLowerCase(),
        keys: [],
        run: () => show(id, filter),
      })),
      ...(settings?.views ?? []).map((v) => ({
        id: 'view-' + v.id,
        name: 'Follow-ups: ' + v.name,
        keys: [],
        run: () => showView(v),
      })),
      ...(current
        ? [
            { id: 'open-followup', run: () => openOne() },
            ...(open
              ? [
                  { id: 'drop', run: () => step('drop') },
                  { id: 'finish', run: () => step('finish') },
                  { id: 'hand-over', run: () => toggle('hand-over') },
                  { id: 'put-off', run: () => toggle('put-off') },
                  { id: 'change', run: () => toggle('change') },
                  ...(current.conversation
                    ? [
                        {
                          id: 'answer',
                          run: () => void navigate('/follow-ups/' + encodeURIComponent(current.uid) + '?reply=1'),
                        },
                      ]
                    : []),
                ]
              : [{ id: 'reopen', run: () => step('reopen') }]),
            { id: 'stage-on', run: () => toStage(1) },
            { id: 'stage-back', run: () => toStage(-1) },
          ]
        : []),
      ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
    ],
    SCREEN,
  )
  if (list.error) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!data) return <Loading what="Loading the follow-ups" />

  const showView = (v: { by: string } & Filter & { id: string; name: string }) => {
    const { id: _id, name: _name, by: viewBy, ...n } = v
    void _id
    void _name
    show(viewBy, n)
  }
  const drop = (e: DragEndEvent) => {
    const f = dragged
    setDragged(undefined)
    const to = e.over?.data.current as { day?: number; none?: boolean; stage?: string } | undefined
    if (!f || !to) return
    if (to.stage !== undefined && stages[stageOf(f)]?.id !== to.stage)
      void desk.step(f.uid, { kind: 'stage', stage: to.stage, seen: isOpen(f) ? 'open' : 'finished' })
    if (to.day !== undefined) void desk.step(f.uid, { kind: 'put-off', day: to.day, seen: 'open' })
    if (to.none) void desk.step(f.uid, { kind: 'put-off', to: { at: 0 }, seen: 'open' })
  }
  const load = (g: FollowUpGroup) =>
    void moreFollowUps(by, filter, g.key, g.next ?? '')
      .then((page) =>
        setMore((m) => {
          const had = m.of === data ? (m.groups[g.key]?.followUps ?? []) : []
          return {
            of: data,
            groups: {
              ...(m.of === data ? m.groups : {}),
              [g.key]: { ...page, followUps: [...had, ...page.followUps] },
            },
          }
        }),
      )
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  const nameOf = (g: FollowUpGroup) =>
    by === 'date'
      ? dateNames[g.key]
      : by === 'label'
        ? g.key === '0'
          ? 'Without a label'
          : (labels?.find((l) => String(l.id) === g.key)?.path ?? 'A label')
        : by === 'priority'
          ? priorityName(Number(g.key))
          : g.key === ''
            ? by === 'project'
              ? 'Without a project'
              : 'About nobody'
            : g.name || g.key
  const keepView = (name: string) => {
    if (!settings) return
    void put('/follow-ups/settings', { ...settings, views: [...settings.views, { id: '', name, by, ...filter }] })
      .then(() => {
        refresh(['followups'])
        desk.say({ text: `Saved as “${name}”.` })
      })
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  }
  const dropView = (id: string) => {
    if (settings)
      void put('/follow-ups/settings', { ...settings, views: settings.views.filter((v) => v.id !== id) }).then(() =>
        refresh(['followups']),
      )
  }
  const line = (f: FollowUpView, card = false) => (
    <Carry key={f.uid} f={f} onLift={() => choose(f)}>
      <Line
        f={f}
        card={card}
        selected={f.uid === current?.uid}
        onSelect={() => choose(f)}
        onOpen={() => openOne(f)}
        onFinish={() => step('finish', f)}
        onReopen={() => step('reopen', f)}
      />
    </Carry>
  )
  const rows = (g: FollowUpGroup, card = false) => (
    <>
      {g.followUps.map((f) => line(f, card))}
      {(g.next || (!g.loaded && g.count > 0)) && (
        <MoreRow>
          <TextButton className="w-full py-2" onClick={() => load(g)}>
            {g.loaded ? `Show more of ${g.count.toLocaleString('en-GB')}` : `Show ${g.count.toLocaleString('en-GB')}`}
          </TextButton>
        </MoreRow>
      )}
    </>
  )
  const filtered = filterWords(filter, { stages, labels: labels ?? [] })
  const board = by === 'stage'
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={(e) => setDragged(all.find((f) => f.uid === e.active.id))}
      onDragEnd={drop}
      onDragCancel={() => setDragged(undefined)}
    >
      <Tabs
        value={by}
        onChange={(id) => show(id, filter)}
        className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,auto)_minmax(0,1fr)_auto]"
      >
        <div className="min-h-0 px-[22px] pt-4 max-[700px]:overflow-hidden max-[700px]:px-3">
          <div className="mb-3 flex flex-wrap items-center gap-3.5">
            <Heading>Follow-ups</Heading>
            <TabList label="Arranged" options={bys.map(([id, name]) => ({ id, name }))} />
            <LineField
              id="quick"
              quiet
              className="relative min-w-64 flex-1"
              label="Write one down"
              placeholder="Write one down: “ring the mover / fri 10 / urgent”"
              onAccept={(w) => desk.act('/follow-ups/new', toNew(w.followUp, false))}
            />
            <Button quiet onClick={oneByOne}>
              One by one
            </Button>
          </div>
          <Days
            list={data}
            filter={filter}
            dragging={!!dragged}
            onFilter={(n) => show(by, { ...filter, day: undefined, group: undefined, ...n })}
          />
          {(filtered.length > 0 || (settings?.views.length ?? 0) > 0) && (
            <div className="mb-1 flex flex-wrap items-center gap-1.5 text-[12px] text-ink-500" data-testid="filtered">
              {filtered.length > 0 && (
                <>
                  Only{' '}
                  {filtered.map((n) => (
                    <Chip key={n} tone="tide">
                      {n}
                    </Chip>
                  ))}
                  <TextButton onClick={() => show(by, {})}>Show all</TextButton>
                </>
              )}
              <span className="flex-1" />
              {settings?.views.map((v) => (
                <span key={v.id} className="inline-flex items-center gap-1 rounded-[6px] bg-sand-100 px-2 py-0.5">
                  <TextButton tone="faint" onClick={() => showView(v)}>
                    {v.name}
                  </TextButton>
                  <IconButton label={`Delete the view ${v.name}`} late onClick={() => dropView(v.id)}>
                    ×
                  </IconButton>
                </span>
              ))}
            </div>
          )}
        </div>
        <TabPanel
          value={by}
          className={`min-h-0 px-[22px] max-[700px]:px-3 ${board ? 'overflow-x-auto overflow-y-hidden pb-1' : 'overflow-y-auto pb-6'}`}
        >
          {!all.length &&
            !data.total &&
            (filtered.length ? (
              <Empty title="Nothing of that kind">No follow-ups match. Clear the filter to see all.</Empty>
            ) : (
              !board && (
                <Empty title="Nothing to follow up">
                  Make a message a follow-up with key 6, or write one in the line above. It stays here until it is done.
                </Empty>
              )
            ))}
          {board ? (
            <div
              className="grid h-full gap-3.5"
              style={{ gridTemplateColumns: `repeat(${groups.length}, minmax(230px, 1fr))` }}
            >
              {groups.map((g) => (
                <Lane key={g.key} stage={stages.find((s) => s.id === g.key)} first={g === groups[0]} group={g}>
                  {rows(g, true)}
                </Lane>
              ))}
            </div>
          ) : (
            groups
              .filter((g) => g.count > 0)
              .map((g) => (
                <section key={g.key} aria-label={nameOf(g)} className="mt-3">
                  <h2
                    className={`flex items-center gap-2 border-b-2 px-0.5 pb-1.5 text-[13.5px] ${g.key === 'late' ? 'border-coral-600' : 'border-ink-900'}`}
                  >
                    {by === 'priority' && <Waves priority={Number(g.key)} />}
                    {nameOf(g)}
                    <span className="ml-auto font-medium text-ink-500">{g.count.toLocaleString('en-GB')}</span>
                  </h2>
                  <List label={nameOf(g)}>{rows(g)}</List>
                </section>
              ))
          )}
        </TabPanel>
        <DecisionBar>
          {tray === 'put-off' && current && (
            <PutOffTray
              title={current.title}
              days={data.days}
              onClose={() => setTray('')}
              onDay={(day) => {
                setTray('')
                void desk.step(current.uid, { kind: 'put-off', day, seen: 'open' })
              }}
              onTime={(to) => {
                setTray('')
                void desk.step(current.uid, { kind: 'put-off', to, seen: 'open' })
              }}
              onNoDate={
                current.due.at
                  ? () => {
                      setTray('')
                      void desk.step(current.uid, { kind: 'put-off', to: { at: 0 }, seen: 'open' })
                    }
                  : undefined
              }
            />
          )}
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
          {tray === 'change' && current && <PanelTray key={current.uid} f={current} onClose={() => setTray('')} />}
          {tray === 'filter' && (
            <FilterTray filter={filter} onFilter={(n) => show(by, n)} onKeep={keepView} onClose={() => setTray('')} />
          )}
          <BarKeys>
            {current && !open ? (
              <DockKey id="reopen" onClick={() => step('reopen')}>
                Open again
              </DockKey>
            ) : (
              <>
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
                  onClick={() => toggle('hand-over')}
                >
                  Wait for…
                </DockKey>
                <DockKey id="put-off" disabled={!current} on={tray === 'put-off'} onClick={() => toggle('put-off')}>
                  Put off
                </DockKey>
                <DockKey id="change" disabled={!current} on={tray === 'change'} onClick={() => toggle('change')}>
                  Change
                </DockKey>
              </>
            )}
            <DockKey id="filter" wide on={tray === 'filter'} onClick={() => toggle('filter')}>
              Filter
            </DockKey>
            {current && (
              <DockKey id="open-followup" wide onClick={() => openOne()}>
                Open
              </DockKey>
            )}
            <DockSide position={all.length ? `${index + 1} of ${data.total.toLocaleString('en-GB')}` : ''} />
          </BarKeys>
        </DecisionBar>
      </Tabs>
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <div className="w-56 rounded-[8px] border border-fill bg-sand-0 px-3 py-1.5 font-semibold shadow-[0_4px_14px_#13272c33]">
            <span className="block truncate">{dragged.title}</span>
          </div>
        )}
      </DragOverlay>
    </DndContext>
  )
}

/** A follow-up can be picked up by mouse and touch. */
function Carry({ f, onLift, children }: { f: FollowUpView; onLift: () => void; children: React.ReactNode }) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: f.uid })
  return (
    <div
      ref={setNodeRef}
      {...listeners}
      onPointerDownCapture={onLift}
      role="presentation"
      className={isDragging ? 'opacity-40' : ''}
    >
      {children}
    </div>
  )
}

const laneTones: Record<string, string> = {
  mine: 'border-fill',
  first: 'border-ink-900',
  others: 'border-plum-600',
  finished: 'border-kelp-600',
}

function Lane({
  stage,
  first,
  group,
  children,
}: {
  stage?: Stage
  first: boolean
  group: FollowUpGroup
  children: React.ReactNode
}) {
  const { setNodeRef, isOver } = useDroppable({ id: 'stage-' + group.key, data: { stage: group.key } })
  const finished = stage?.means === 'finished'
  return (
    <section
      ref={setNodeRef}
      aria-label={group.name}
      data-lane={group.name}
      className={`flex min-h-0 flex-col rounded-[10px] ${isOver ? 'bg-tide-50' : ''}`}
    >
      <h2
        className={`flex justify-between border-b-2 px-0.5 pb-1.5 text-[13.5px] ${laneTones[first ? 'first' : (stage?.means ?? 'mine')]}`}
      >
        {group.name}
        {finished ? ' this week' : ''}
        <span className="font-medium text-ink-500">{group.count.toLocaleString('en-GB')}</span>
      </h2>
      <List
        label={group.name}
        empty={!group.count}
        className="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto pt-2 pb-3"
      >
        {children}
      </List>
    </section>
  )
}
