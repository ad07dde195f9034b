import { useQueries, useQuery } from '@tanstack/react-query'
import { get } from '../../api/client'
import type { FoundIn, FoundView } from '../../api/desk'
import { putSlips } from '../../api/slips'

const asking = (asked: string, newest: boolean) => `asked=${encodeURIComponent(asked)}${newest ? '&newest=1' : ''}`

/**
 * What is found for these words, the best first or the newest. What was found before stays until it is here, and says
 * for which words it is.
 */
export const useFound = (asked: string, newest: boolean) =>
  useQuery({
    queryKey: ['found', asked, newest],
    queryFn: async ({ signal }) => {
      const found = await get<FoundView>('/found?' + asking(asked, newest), signal)
      putSlips(found.slips)
      return { ...found, asked }
    },
    placeholderData: (before) => before,
  })

/** Where the words stand in what was found, of the conversations from those places on. */
export const useFoundPlaces = (asked: string, newest: boolean, from: number[]) =>
  useQueries({
    queries: from.map((n) => ({
      queryKey: ['found', asked, newest, n],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        get<FoundIn[]>(`/found/places?${asking(asked, newest)}&from=${n}`, signal),
    })),
    combine: placesOf,
  })
const placesOf = (all: { data?: FoundIn[] }[]) => all.flatMap((q) => q.data ?? [])

export const useRecentSearches = () =>
  useQuery({ queryKey: ['recent-searches'], queryFn: () => get<string[]>('/found/recent'), staleTime: 0 })
