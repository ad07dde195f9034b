import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get } from '../../api/client'
import type { List } from '../../api/desk'
import { useAccounts } from '../../api/queries'
import { useMe } from '../../api/session'

type Way = '' | 'on' | 'keys' | 'done'

/**
 * The way from signing up to the first decided message: connect an account, watch its mail come in, the six keys, a
 * first plan. How far one is on it is kept for this browser; it can be left at each step.
 */
export function useBegin(left: number) {
  const stored = 'ebbe-begin-' + useMe().keep
  const [way, setWay] = useState<Way>(() => (localStorage.getItem(stored) ?? '') as Way)
  const go = (next: Way) => {
    localStorage.setItem(stored, next)
    setWay(next)
  }
  const accounts = useAccounts().data?.accounts
  const bare = left === 0 && accounts?.length === 0 && way !== 'done'
  // Only where there is no mail at all: at zero one has been here before.
  const any = useQuery({
    queryKey: ['found', 'any'],
    queryFn: () => get<List>('/find?where=&after='),
    enabled: bare,
  }).data?.slips.length
  const coming = accounts?.find((a) => !a.synced && !a.paused)
  return {
    coming,
    connect: bare && any === 0,
    comes: left === 0 && way === 'on' && !!coming,
    keys: left > 0 && way === 'on',
    plan: way === 'keys',
    go,
  }
}
export type Beginning = ReturnType<typeof useBegin>
