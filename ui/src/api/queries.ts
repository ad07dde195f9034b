import { notifyManager, QueryClient, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { team } from './base'
import { EbbeError, get, post } from './client'
import type {
  Accounts,
  BoxView,
  CalendarWeek,
  Cards,
  Closing,
  ConversationView,
  Dayline,
  DayLoad,
  DeliveryView,
  DraftView,
  EventFound,
  FollowUpGroup,
  FollowUpList,
  FollowUpSettings,
  FollowUpView,
  LabelView,
  List,
  Log,
  Matching,
  MessageView,
  Outbox,
  PlanPreview,
  Queue,
  SavedList,
  Settings,
  Sites,
  SittingView,
  Slip,
  TemplateView,
  Tide,
  Unanswered,
  Waiting,
} from './desk'
import type { AnswerLine } from './gen/writing'
import type { Plan } from './gen/delivery'
import type { Proposal } from './gen/followup'
import type { Miss } from './gen/numbers'
import type { Query } from './gen/search'
import type { Day, Preset } from './gen/when'
import { Going, inOrder, less, putBack, without } from './going'
import { afterPaint } from './paint'
import { changeSlip, putSlips, staleSlips } from './slips'
import { dayKey } from './times'

// What a key has changed is shown before the next key: it must never act on what has just gone. And all that one key
// changes is drawn once: views are told of it while the key is still being handled, with what else it has set.
let inHand = false
notifyManager.setScheduler((tell) => (inHand ? tell() : queueMicrotask(tell)))
/** Does what a key does to the lists, so that it is drawn with all else the key does. */
function inOne(f: () => void) {
  inHand = true
  try {
    f()
  } finally {
    inHand = false
  }
}

export const client = new QueryClient({
  defaultOptions: {
    // The program may be on this machine: what the browser thinks of the network says nothing about it.
    queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false, networkMode: 'always' },
  },
})

/** How the user wants to see the inbox. */
export interface Arranged {
  group: string
  order: string
  where: Query
}

export const ask = (where: Query) => (Object.keys(where).length ? encodeURIComponent(JSON.stringify(where)) : '')

// What has been decided leaves the queue and the sitting before the program has answered.
const going = { inbox: new Going(), sitting: new Going() }
/** The program has answered, or refused: what it says from now on holds. */
export function answered(ids: number[], refused: boolean) {
  for (const from of [going.inbox, going.sitting]) from[refused ? 'refused' : 'answered'](ids)
}

let orders: typeof import('./orders') | undefined // comes after the first page
const read = async (path: string) => {
  const stays = going.inbox.asking()
  const said = await get<Queue>(path + '&since=' + (orders?.tagOf(path) ?? ''))
  const q = orders?.whole(path, said) ?? said
  if (!orders) void import('./orders').then((m) => void (orders = m).whole(path, said))
  putSlips(q.slips)
  return without(q, stays)
}
export const useQueue = (a: Arranged) =>
  useQuery({
    queryKey: ['inbox', a],
    queryFn: () => read(`/inbox?group=${a.group}&order=${a.order}&where=${ask(a.where)}`),
    placeholderData: (before) => before,
    structuralSharing: false, // it would hold each of a hundred thousand against what it was, for each decision
  })
export const useSitting = () =>
  useQuery({
    queryKey: ['sitting'],
    queryFn: async () => {
      const stays = going.sitting.asking()
      const s = await get<SittingView>('/sitting')
      putSlips(s.slips)
      return { ...s, queue: s.queue.filter(stays) }
    },
  })

const useList = (key: unknown[], path: string) =>
  useInfiniteQuery({
    queryKey: key,
    queryFn: async ({ pageParam }) => {
      const list = await get<List>(path + 'after=' + pageParam)
      putSlips(list.slips)
      return list
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    placeholderData: (before) => before,
  })

export const useLater = () => useList(['later'], '/later?')

const conversation = (id: number) => ({
  queryKey: ['conversation', id],
  queryFn: () => get<ConversationView>('/conversations/' + id),
})
export const useConversation = (id: number | undefined) => useQuery({ ...conversation(id ?? 0), enabled: !!id })

/** A conversation as it was fetched last, if it was. */
export const conversationHere = (id: number | undefined) => client.getQueryData<ConversationView>(['conversation', id])

// The conversations that are being fetched before they are asked for, and of which nothing has changed since.
const ahead = new Set<number>()

/** Whether a conversation is not here as it is now, and is not being fetched by itself. */
function missing(id: number) {
  const state = client.getQueryState(['conversation', id])
  return !state || (state.fetchStatus === 'idle' && (!state.data || state.isInvalidated))
}

/** Has the first few of these conversations here before they are asked for: many in one request, long before the last. */
export function conversationsAhead(ids: number[], few: number) {
  const lacks = (id: number) => !ahead.has(id) && missing(id)
  if (!ids.slice(0, few).some(lacks)) return
  const asked = ids.filter(lacks)
  for (const id of asked) ahead.add(id)
  get<Record<number, ConversationView>>('/conversations?ids=' + asked.join())
    .then((views) => {
      for (const id of asked)
        if (views[id] && ahead.has(id) && missing(id)) client.setQueryData(['conversation', id], views[id])
    })
    .catch(() => {}) // each is fetched by itself when it is opened
    .finally(() => {
      for (const id of asked) ahead.delete(id)
    })
}

/** A message with its text; of a very long one the beginning, unless all is asked for. */
export const useMessage = (id: number, enabled: boolean, all: boolean) =>
  useQuery({
    queryKey: ['message', id, all],
    queryFn: () => get<MessageView>(`/messages/${id}${all ? '?all=1' : ''}`),
    enabled,
  })

// While decisions are on their way what is shown as left is right, and what was asked for meanwhile may not be.
const readDayline = async () => {
  const right = going.inbox.counting()
  const line = await get<Dayline>('/dayline')
  const shown = client.getQueryData<Dayline>(['dayline'])
  return shown && !right() ? { ...line, left: shown.left } : line
}
const dayline = { queryKey: ['dayline'], queryFn: readDayline, refetchInterval: 60_000 }
export const useDayline = () => useQuery(dayline)
/** How many are left to decide. */
export const useLeft = () => useQuery({ ...dayline, select: (d) => d.left }).data
/** What calls for something at each place. */
export const useCounts = () =>
  useQuery({
    ...dayline,
    select: ({ left, followUps, waiting, stuck, later }) => ({ left, followUps, waiting, stuck, later }),
  }).data
/** The day it is. */
export const useDate = () => useQuery({ ...dayline, select: (d) => dayKey(d.now) }).data
/** How delivery stands. */
export const useDeliveryState = () => useQuery({ ...dayline, select: (d) => d.delivery }).data
export const useTide = () => useQuery({ queryKey: ['tide'], queryFn: () => get<Tide>('/tide'), staleTime: 0 })
export const useGrid = () => useQuery({ queryKey: ['grid'], queryFn: () => get<Day[]>('/grid'), staleTime: 0 })
const askedFor = (by: string, filter: Query) =>
  `by=${by}&filter=${Object.keys(filter).length ? encodeURIComponent(JSON.stringify(filter)) : ''}`
export const useFollowUps = (by: string, filter: Query) =>
  useQuery({
    queryKey: ['followups', by, filter],
    queryFn: ({ signal }) => get<FollowUpList>('/follow-ups?' + askedFor(by, filter), signal),
    placeholderData: (before) => before,
  })
/** More of a group of follow-ups than its first. */
export const moreFollowUps = (by: string, filter: Query, key: string, after: string) =>
  get<FollowUpGroup>(
    `/follow-ups/group?${askedFor(by, filter)}&key=${encodeURIComponent(key)}&after=${encodeURIComponent(after)}`,
  )
export const useFollowUp = (uid: string) =>
  useQuery({
    queryKey: ['followup', uid],
    queryFn: () => get<FollowUpView>('/follow-ups/one?uid=' + encodeURIComponent(uid)),
    enabled: uid !== '',
  })
export const useOneByOne = (filter: Query) =>
  useQuery({
    queryKey: ['one-by-one', filter],
    queryFn: () => get<FollowUpView[]>('/follow-ups/one-by-one?' + askedFor('', filter)),
    staleTime: 0,
    gcTime: 0,
  })
export const useClosing = () => useQuery({ queryKey: ['closing'], queryFn: () => get<Closing>('/follow-ups/closing') })
export const useFollowUpSettings = () =>
  useQuery({ queryKey: ['followup-settings'], queryFn: () => get<FollowUpSettings>('/follow-ups/settings') })
export const useProposal = (id: number | undefined) =>
  useQuery({ queryKey: ['proposal', id], queryFn: () => get<Proposal>('/follow-ups/proposal/' + id), enabled: !!id })
const usePages = <T extends { next?: string }>(key: string, path: string) =>
  useInfiniteQuery({
    queryKey: [key],
    queryFn: ({ pageParam }) => get<T>(path + encodeURIComponent(pageParam)),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
  })
export const useLog = () => usePages<Log>('log', '/follow-ups/log?before=')
export const useWaiting = () => usePages<Waiting>('waiting', '/waiting?after=')
export const useUnanswered = () =>
  useQuery({ queryKey: ['unanswered'], queryFn: () => get<Unanswered[]>('/waiting/unanswered') })
export const useShortAnswers = (id: number | undefined) =>
  useQuery({
    queryKey: ['answers', id],
    queryFn: () => get<AnswerLine[]>(`/conversations/${id}/answers`),
    enabled: !!id,
    staleTime: 0,
  })
export const useCards = () => useQuery({ queryKey: ['cards'], queryFn: () => get<Cards>('/cards') })
export const useWeek = (day: string) =>
  useQuery({
    queryKey: ['calendar', day],
    queryFn: () => get<CalendarWeek>('/calendar?day=' + day),
    placeholderData: (before) => before,
  })
export const useTimes = (id: number | undefined) =>
  useQuery({ queryKey: ['times', id], queryFn: () => get<EventFound>('/calendar/times/' + id), enabled: !!id })
/** The boxes one works in: one's own first, and those of teams. None where this page is of a box that is not among them. */
export const useBoxes = () =>
  useQuery({ queryKey: ['boxes'], queryFn: askForBoxes, refetchInterval: 60_000, retry: false })
/** That one is no member is an answer, and no failure: a failure would be forgotten while it is asked anew. */
const askForBoxes = () =>
  get<BoxView[]>('/boxes').catch((e: unknown) => {
    if (e instanceof EbbeError && e.status === 404) return []
    throw e
  })
export const useSettings = () => useQuery({ queryKey: ['settings'], queryFn: () => get<Settings>('/settings') })
export const useLabels = () => useQuery({ queryKey: ['labels'], queryFn: () => get<LabelView[]>('/labels') })
export const useSites = () => useQuery({ queryKey: ['places'], queryFn: () => get<Sites>('/places') })
export const usePresets = () =>
  useQuery({ queryKey: ['presets'], queryFn: () => get<Preset[]>('/presets'), staleTime: 0 })
export const useDays = () => useQuery({ queryKey: ['days'], queryFn: () => get<DayLoad[]>('/days') })
export const useMisses = (enabled: boolean) =>
  useQuery({ queryKey: ['misses'], queryFn: () => get<Miss>('/misses'), enabled })
export const useDelivery = () => useQuery({ queryKey: ['delivery'], queryFn: () => get<DeliveryView>('/delivery') })
/** What a plan would do, before it is used. */
export const usePreview = (plan: Plan | undefined) =>
  useQuery({
    queryKey: ['preview', plan],
    queryFn: () => post<PlanPreview>('/delivery/preview', { plan }),
    enabled: !!plan,
    placeholderData: (before) => before,
    gcTime: 60_000,
  })
export const useOutbox = () => useMessages('outbox', '/outbox?before=')
export const useHeard = () => useMessages('heard', '/delivery/heard?before=')
const useMessages = (key: string, path: string) =>
  useInfiniteQuery({
    queryKey: [key],
    queryFn: ({ pageParam }) => get<Outbox>(path + pageParam),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next || undefined,
  })
export const useAccounts = () => useQuery({ queryKey: ['accounts'], queryFn: () => get<Accounts>('/accounts') })
export const useDrafts = () => useQuery({ queryKey: ['drafts'], queryFn: () => get<DraftView[]>('/drafts') })
export const useDraft = (id: number, known?: DraftView) =>
  useQuery({
    queryKey: ['draft', id],
    queryFn: () => get<DraftView>('/drafts/' + id),
    enabled: id > 0,
    gcTime: 0,
    retry: false,
    initialData: known?.id === id ? known : undefined,
  })
export const useTemplates = () =>
  useQuery({ queryKey: ['templates'], queryFn: () => get<TemplateView[]>('/templates') })
export const useMatching = (where: Query, enabled: boolean) =>
  useQuery({
    queryKey: ['matching', where],
    queryFn: ({ signal }) => get<Matching>('/matching?where=' + ask(where), signal),
    enabled,
    placeholderData: (before) => before,
  })
export const useSavedLists = (enabled = true) =>
  useQuery({
    enabled,
    queryKey: ['lists'],
    queryFn: async () => {
      const lists = await get<SavedList[]>('/lists')
      for (const l of lists) putSlips(l.slips)
      return lists
    },
  })
/** What has to be read anew when something changed. */
const touched: Record<string, string[]> = {
  mail: [
    ...(team ? ['boxes', 'activity'] : []),
    'unanswered',
    'person',
    'inbox',
    'sitting',
    'later',
    'found',
    'dayline',
    'tide',
    'grid',
    'days',
    'history',
    'conversation',
    'lists',
    'senders',
    'matching',
    'learned',
    'junk',
    'facts',
    'rules',
    'followup',
    'calendar',
  ],
  rules: ['rules', 'history'],
  files: ['found'],
  followups: [
    'mine',
    ...(team ? ['inbox', 'boxes', 'activity'] : []), // there it stands by who has it
    'found',
    'followups',
    'followup',
    'closing',
    'log',
    'waiting',
    'unanswered',
    'person',
    'calendar',
    'followup-settings',
    'proposal',
    'dayline',
    'tide',
    'grid',
    'days',
    'conversation',
    'history',
    'lists',
  ],
  talk: ['activity', 'boxes', 'history'],
  teams: ['activity', 'boxes', 'mine'],
  reading: ['reading'],
  cards: ['cards'],
  calendar: ['calendar', 'conversation', 'cards', 'history', 'outbox'],
  delivery: ['delivery', 'dayline', 'tide', 'heard', 'outbox', 'history', 'preview'],
  clock: [
    'session',
    'delivery',
    'preview',
    'dayline',
    'followups',
    'followup',
    'closing',
    'waiting',
    'calendar',
    'grid',
    'days',
    'tide',
    'inbox',
    'presets',
  ],
  person: ['session', 'settings', 'followup-settings', 'boxes', 'team'],
  labels: ['labels', 'places', 'lists', 'history'],
  sitting: ['sitting'],
  accounts: ['accounts'],
  outbox: ['outbox', 'heard', 'drafts', 'draft', 'dayline', 'templates'],
}

/** Reads anew what the topics touch, and the slips of these conversations (all, if none are named). */
export function refresh(topics: string[], except: string[] = [], conversations?: number[]) {
  const keys = new Set(topics.flatMap((t) => touched[t] ?? []))
  if (topics.includes('mail') || topics.includes('followups')) staleSlips(conversations)
  if (topics.includes('talk') || topics.includes('writing'))
    for (const id of conversations ?? []) {
      ahead.delete(id)
      void client.invalidateQueries({ queryKey: ['conversation', id] })
    }
  if (topics.includes('teams'))
    void client.invalidateQueries({
      queryKey: ['conversation'],
      predicate: (q) => !!(q.state.data as ConversationView | undefined)?.shared.length, // who of a team has it
    })
  for (const key of keys) if (!except.includes(key)) readAnew(key)
}

/** Reads a view anew; one that is being read for the first time may have been asked for too early, and is read once more. */
function readAnew(key: string) {
  if (key === 'conversation') ahead.clear()
  const first = client
    .getQueryCache()
    .findAll({ queryKey: [key] })
    .some((q) => q.state.data === undefined && q.state.fetchStatus === 'fetching')
  void client.invalidateQueries({ queryKey: [key] }).then(() => {
    if (first) void client.invalidateQueries({ queryKey: [key] })
  })
}

const RESTS = 600 // ms without another decision
const LATEST = 4000 // ms, while one decides without a rest
const soon = { keys: new Set<string>(), timer: 0, since: 0 }
/** The same when the hand rests, once for several decisions in a row: what a decision changes is shown already. */
export function refreshSoon(topics: string[], except: string[], conversations: number[]) {
  staleSlips(conversations)
  if (!client.getQueryData<SittingView>(['sitting'])?.id) except = [...except, 'sitting'] // there has been none
  // Of the other conversations, some of which have been fetched ahead, nothing has changed.
  if (!topics.includes('followups')) {
    except = [...except, 'conversation']
    for (const id of conversations) {
      ahead.delete(id)
      void client.invalidateQueries({ queryKey: ['conversation', id] })
    }
  }
  for (const key of topics.flatMap((t) => touched[t] ?? [])) {
    if (except.includes(key)) continue
    soon.keys.add(key)
    // What is opened meanwhile is read anew as it opens; what is shown is, when the hand rests.
    void client.invalidateQueries({ queryKey: [key], refetchType: 'none' })
  }
  const now = performance.now()
  if (!soon.since) soon.since = now
  clearTimeout(soon.timer)
  soon.timer = window.setTimeout(
    () => {
      soon.since = 0
      const keys = [...soon.keys]
      soon.keys.clear()
      for (const key of keys) readAnew(key)
    },
    Math.max(0, Math.min(RESTS, soon.since + LATEST - now)),
  )
}

/** Takes conversations out of the queue and the sitting at once, before the server has answered. */
export function ebbAway(ids: number[], undecided = false) {
  const gone = new Set(ids)
  going.sitting.leave(ids)
  if (!undecided) going.inbox.leave(ids)
  let n = 0
  inOne(() => {
    client.setQueryData<SittingView>(['sitting'], (s) =>
      s?.queue.some((id) => gone.has(id)) ? { ...s, queue: s.queue.filter((id) => !gone.has(id)) } : s,
    )
    if (undecided) return
    client.setQueriesData<Queue>({ queryKey: ['inbox'] }, (data) => {
      const next = data && less(data, ids)
      if (data && next) n = data.left - next.left
      return next
    })
  })
  // The counts follow once the next conversation is painted.
  if (n) afterPaint(() => countLeft(-n))
}

const countLeft = (by: number) =>
  client.setQueryData<Dayline>(['dayline'], (line) => line && { ...line, left: Math.max(0, line.left + by) })

/** What the lists and the counts of what is left were, to be put back from. */
export const lists = () => ['inbox', 'sitting', 'dayline'].flatMap((key) => client.getQueriesData({ queryKey: [key] }))

/** Puts conversations back to where they were in the lists: what was decided about them was refused. */
export function ebbBack(ids: number[], before: ReturnType<typeof lists>) {
  answered(ids, true)
  let n = 0
  for (const [key, was] of before) {
    if (key[0] === 'inbox' && was)
      client.setQueryData<Queue>(key, (q) => {
        const next = q && putBack(q, was as Queue, ids)
        if (q && next) n = Math.max(n, next.left - q.left)
        return next
      })
    if (key[0] === 'sitting' && was)
      client.setQueryData<SittingView>(
        key,
        (s) => s && { ...s, queue: inOrder(s.queue, (was as SittingView).queue, ids) },
      )
  }
  countLeft(n)
}

/** Changes slips at once, before the server has answered. */
export function changeSlips(ids: number[], change: Partial<Slip>) {
  inOne(() => {
    for (const id of ids) {
      changeSlip(id, change)
      client.setQueryData<ConversationView>(['conversation', id], (v) => v && { ...v, slip: { ...v.slip, ...change } })
    }
  })
}
