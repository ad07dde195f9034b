import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { get } from '../../api/client'
import type { ToldHeap } from '../../api/desk'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Worktop } from '../worktop/worktop'
import { sentences } from './sentences'

/** What machines tell that is still to come, by its kind, wherever its messages lie. */
export function ToCome() {
  const { data, error, refetch } = useQuery({ queryKey: ['facts'], queryFn: () => get<ToldHeap[]>('/facts') })
  const groups = useMemo(() => {
    const seen = new Set<number>() // a conversation stands in the first group that it belongs to
    return data?.map((h) => {
      const ids = [...new Set(h.facts.map((f) => f.conversation))].filter((id) => !seen.has(id))
      for (const id of ids) seen.add(id)
      return { key: h.kind, name: h.name, ids, count: ids.length }
    })
  }, [data])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!groups) return <Loading what={sentences.loading} />
  if (!groups.length) return <Empty title={sentences.nothingToCome}>{sentences.whatIsShown}</Empty>
  return <Worktop label={sentences.facts} groups={groups} position={sentences.of} />
}
