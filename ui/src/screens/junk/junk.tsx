import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { Link } from 'react-router'
import { get } from '../../api/client'
import type { Lying } from '../../api/desk'
import { putSlips } from '../../api/slips'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Worktop } from '../worktop/worktop'
import { sentences } from './sentences'

/** What lies in junk, to be looked through: what is least certain first, each with its reason; the rest by one key. */
export function Junk() {
  const { data, error, refetch } = useQuery({
    queryKey: ['junk'],
    queryFn: async () => {
      const lying = await get<Lying>('/junk')
      putSlips(lying.slips)
      return lying
    },
    staleTime: 0,
  })
  const desk = useDesk()
  const groups = useMemo(
    () =>
      data?.groups.map((g) => ({ key: g.key, name: sentences[g.key as 'perhaps'], ids: g.ids, count: g.ids.length })),
    [data],
  )
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data || !groups) return <Loading what={sentences.loading} />
  if (!data.count)
    return (
      <Empty title={sentences.nothingInJunk}>
        {sentences.whatIsJunk}{' '}
        <Link to="/setup/junk" className="text-accent underline">
          {sentences.howStrict}
        </Link>
      </Empty>
    )
  const ids = data.groups.flatMap((g) => g.ids)
  return (
    <Worktop
      label={sentences.junk}
      place="junk"
      groups={groups}
      position={(n, total) => sentences.ofJunk(n, total)}
      head={() => (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-sand-200 px-3.5 py-2 text-[12.5px]">
          <span className="min-w-0 flex-1 text-ink-500">{sentences.leastCertainFirst}</span>
          <Link to="/setup/junk" className="text-accent hover:underline">
            {sentences.howStrict}
          </Link>
          <Button
            size="small"
            onClick={() => void desk.decide({ kind: 'all-junk', conversations: ids, seen: 'junk' }, true)}
          >
            {sentences.allJunk(ids.length)}
          </Button>
        </div>
      )}
    />
  )
}
