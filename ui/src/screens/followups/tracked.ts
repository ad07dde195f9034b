import { type DragEndEvent, MouseSensor, TouchSensor, useSensor, useSensors } from '@dnd-kit/core'
import { useMemo, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { team } from '../../api/base'
import { newKey, told } from '../../api/client'
import type { FollowUpGroup, FollowUpView } from '../../api/desk'
import type { By } from '../../api/gen/followup'
import type { Query } from '../../api/gen/search'
import { moreFollowUps, useFollowUps, useFollowUpSettings, useLabels } from '../../api/queries'
import { fromAddress, useInAddress } from '../../frame/address'
import { useChoice } from '../../frame/choosing'
import { SCREEN, useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { priorityName } from '../../kit/kit'
import { canKeepWaiting, isOpen } from './parts'
import { sentences } from './sentences'
import { filterWords } from './words'

export const dateNames: Record<string, string> = {
  late: sentences.late,
  today: sentences.today,
  tomorrow: sentences.tomorrow,
  'this-week': sentences.thisWeekTitle,
  'next-weeks': sentences.nextWeeks,
  'no-date': sentences.noDate,
}

export const bys = [
  ['date', sentences.byDate],
  ['stage', sentences.byStage],
  ['project', sentences.byProject],
  ['person', sentences.byPerson],
  ['priority', sentences.byPriority],
  ['label', sentences.byLabel],
  ...(team ? [['owner', sentences.byOwner] as const] : []),
] as const
export type Tray = '' | 'put-off' | 'hand-over' | 'change' | 'filter'
export const REMEMBERED = 'ebbe-followups-by'

/** Tracked work: how it is arranged and filtered, which one is current, and what is done with it. */
export function useTracked() {
  const [params, setParams] = useSearchParams()
  const by = params.get('by') ?? localStorage.getItem(REMEMBERED) ?? 'date'
  const filterText = params.get('filter') ?? ''
  const filter = useMemo<Query>(() => {
    try {
      return JSON.parse(filterText || '{}') as Query
    } catch {
      return {}
    }
  }, [filterText])
  const list = useFollowUps(by, filter)
  const [shownBy, setShownBy] = useState(by) // how what is shown is arranged, until what was asked for has come
  if (list.data && !list.isPlaceholderData && shownBy !== by) setShownBy(by)
  const { data: settings } = useFollowUpSettings()
  const { data: labels } = useLabels()
  const desk = useDesk()
  const choice = useChoice()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(() => fromAddress('at'))
  const [tray, setTray] = useState(() => fromAddress('tray') as Tray)
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
  useInAddress({ at: current?.uid ?? '', tray }, (was) => {
    setChosen(was('at'))
    setTray(was('tray') as Tray)
  })

  const show = (nextBy: string, n: Query) => {
    localStorage.setItem(REMEMBERED, nextBy)
    setParams(Object.keys(n).length ? { by: nextBy, filter: JSON.stringify(n) } : { by: nextBy }, {
      replace: tray === 'filter' && !!filterText, // what is put together in the tray is one step, not one for each part
    })
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
    if (f.uid === current?.uid && kind !== 'reopen') setChosen((all[index + 1] ?? all[index - 1])?.uid ?? '')
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
        name: sentences.followUps(name.toLowerCase()),
        keys: [],
        run: () => show(id, filter),
      })),
      ...(settings?.views ?? []).map((v) => ({
        id: 'view-' + v.id,
        name: sentences.followUpsNamed(v.name),
        keys: [],
        run: () => showView(v),
      })),
      ...(current
        ? [
            { id: 'open-followup', run: () => openOne() },
            ...(canKeepWaiting(current)
              ? [{ id: 'keep-waiting', run: () => void desk.step(current.uid, { kind: 'keep-waiting' }) }]
              : []),
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

  const showView = (v: { by: string } & Query & { id: string; name: string }) => {
    const { id: _id, name: _name, by: viewBy, ...n } = v
    void _id
    void _name
    show(viewBy, n)
  }
  const drop = (e: DragEndEvent) => {
    const f = dragged
    setDragged(undefined)
    const to = e.over?.data.current as { day?: number; none?: boolean; stage?: string; owner?: number } | undefined
    if (!f || !to) return
    if (to.owner !== undefined && (f.owner?.person ?? 0) !== to.owner)
      void desk.step(f.uid, { kind: 'give', owner: to.owner, seen: 'open' })
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
    shownBy === 'date'
      ? dateNames[g.key]
      : shownBy === 'label'
        ? g.key === '0'
          ? sentences.withoutALabel
          : (labels?.find((l) => String(l.id) === g.key)?.path ?? sentences.aLabel)
        : shownBy === 'priority'
          ? priorityName(Number(g.key))
          : g.key === ''
            ? shownBy === 'project'
              ? sentences.withoutAProject
              : sentences.aboutNobody
            : g.name || g.key
  const keepView = (name: string) => {
    if (settings)
      void choice({ followUp: { views: [...settings.views, { id: newKey(), name, by: by as By, ...filter }] } })
  }
  const dropView = (id: string) => {
    if (settings) void choice({ followUp: { views: settings.views.filter((v) => v.id !== id) } })
  }
  const filtered = filterWords(filter, { stages, labels: labels ?? [] })
  const board = shownBy === 'stage' || shownBy === 'owner'
  return {
    by,
    shownBy,
    filter,
    list,
    settings,
    desk,
    tray,
    setTray,
    dragged,
    setDragged,
    sensors,
    data,
    groups,
    all,
    index,
    current,
    open,
    show,
    choose,
    step,
    stages,
    openOne,
    oneByOne,
    toggle,
    showView,
    drop,
    load,
    nameOf,
    keepView,
    dropView,
    filtered,
    board,
  }
}
