import { QueryClient, useInfiniteQuery, useQuery, type InfiniteData } from '@tanstack/react-query'
import { get } from './client'
import type { ConversationView, Dayline, FollowUpList, FollowUpView, History, List, MessageView, Queue, Session, Settings, Tide } from './gen/desk'
import type { Day } from './gen/when'

export const client = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
})

export const useSession = () => useQuery({ queryKey: ['session'], queryFn: () => get<Session>('/session') })

const paged = (path: string) => (path.includes('?') ? path + '&after=' : path + '?after=')

export const useQueue = () =>
  useInfiniteQuery({
    queryKey: ['inbox'],
    queryFn: ({ pageParam }) => get<Queue>('/inbox?after=' + pageParam),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
  })

const useList = (key: unknown[], path: string) =>
  useInfiniteQuery({
    queryKey: key,
    queryFn: ({ pageParam }) => get<List>(paged(path) + pageParam),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    placeholderData: (before) => before,
  })

export const useLater = () => useList(['later'], '/later')
export const useFind = (words: string, place: string) =>
  useList(['find', words, place], `/find?words=${encodeURIComponent(words)}&place=${place}`)

const conversation = (id: number) => ({
  queryKey: ['conversation', id],
  queryFn: () => get<ConversationView>('/conversations/' + id),
})
export const useConversation = (id: number | undefined) => useQuery({ ...conversation(id ?? 0), enabled: !!id })
export const prefetchConversation = (id: number) => client.prefetchQuery(conversation(id))

export const useMessage = (id: number, enabled: boolean) =>
  useQuery({ queryKey: ['message', id], queryFn: () => get<MessageView>('/messages/' + id), enabled })

export const useDayline = () => useQuery({ queryKey: ['dayline'], queryFn: () => get<Dayline>('/dayline'), refetchInterval: 60_000 })
export const useTide = () => useQuery({ queryKey: ['tide'], queryFn: () => get<Tide>('/tide'), staleTime: 0 })
export const useGrid = () => useQuery({ queryKey: ['grid'], queryFn: () => get<Day[]>('/grid'), staleTime: 0 })
export const useFollowUps = () => useQuery({ queryKey: ['followups'], queryFn: () => get<FollowUpList>('/follow-ups') })
export const useCards = () => useQuery({ queryKey: ['cards'], queryFn: () => get<FollowUpView[]>('/cards') })
export const useSettings = () => useQuery({ queryKey: ['settings'], queryFn: () => get<Settings>('/settings') })
export const useHistory = () =>
  useInfiniteQuery({
    queryKey: ['history'],
    queryFn: ({ pageParam }) => get<History>('/history?before=' + pageParam),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next || undefined,
    staleTime: 0,
  })

/** What has to be read anew when something changed. */
const touched: Record<string, string[]> = {
  mail: ['inbox', 'later', 'find', 'dayline', 'tide', 'grid', 'history', 'conversation'],
  followups: ['followups', 'dayline', 'tide', 'grid', 'conversation', 'history'],
  cards: ['cards'],
  clock: ['session', 'dayline', 'followups', 'grid', 'tide', 'inbox'],
  person: ['session', 'settings'],
}

/** Reads anew what the topics touch. */
export function refresh(topics: string[], except: string[] = []) {
  const keys = new Set(topics.flatMap((t) => touched[t] ?? []))
  for (const key of keys) if (!except.includes(key)) void client.invalidateQueries({ queryKey: [key] })
}

/** Takes conversations out of the queue at once, before the server has answered. */
export function ebbAway(ids: number[]) {
  void client.cancelQueries({ queryKey: ['inbox'] })
  const gone = new Set(ids)
  let n = 0
  client.setQueryData<InfiniteData<Queue>>(['inbox'], (data) => {
    if (!data) return data
    const bySection = new Map<string, number>()
    for (const page of data.pages)
      for (const s of page.slips)
        if (gone.has(s.id)) {
          bySection.set(s.section ?? '', (bySection.get(s.section ?? '') ?? 0) + 1)
          n++
        }
    return {
      ...data,
      pages: data.pages.map((page) => ({
        ...page,
        left: page.left - n,
        sections: page.sections.map((s) => ({ ...s, count: s.count - (bySection.get(s.section) ?? 0) })),
        slips: page.slips.filter((s) => !gone.has(s.id)),
      })),
    }
  })
  client.setQueryData<Dayline>(['dayline'], (line) => line && { ...line, left: Math.max(0, line.left - n) })
}

/** Changes slips of the queue at once. */
export function changeSlips(ids: number[], change: { starred?: boolean; unread?: boolean; looks?: number }) {
  client.setQueryData<InfiniteData<Queue>>(['inbox'], (data) =>
    data && { ...data, pages: data.pages.map((p) => ({ ...p, slips: p.slips.map((s) => (ids.includes(s.id) ? { ...s, ...change } : s)) })) })
  for (const id of ids)
    client.setQueryData<ConversationView>(['conversation', id], (v) => v && { ...v, slip: { ...v.slip, ...change } })
}
