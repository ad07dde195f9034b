import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get, told } from '../../api/client'
import type { Blocking } from '../../api/desk'
import { Button } from '../../kit/button'
import { ChoiceList } from '../../kit/choose'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

/** Blocking a sender or all of their domain, with how many people that hits. */
export function BlockTray(props: { id: number; onBlock: (domain: boolean) => void; onClose: () => void }) {
  const { id, onBlock, onClose } = props
  const { data, error } = useQuery({
    queryKey: ['block', id],
    queryFn: () => get<Blocking>(`/conversations/${id}/block`),
    staleTime: 0,
  })
  const [domain, setDomain] = useState(false)
  return (
    <Tray
      label={sentences.block}
      testid="block-tray"
      layout="middle"
      onClose={onClose}
      onSubmit={() => data && onBlock(domain)}
    >
      {error && <p>{told(error)}</p>}
      {data && (
        <div className="min-w-72 flex-1">
          <ChoiceList
            label={sentences.block}
            value={domain}
            options={[
              { id: false, name: data.address, note: sentences.onlyThisSender },
              { id: true, name: sentences.everybodyAt(data.domain), note: sentences.hits(data.people, data.written) },
            ]}
            onChange={setDomain}
          />
          <p className="mt-1 px-2 text-[12px] text-ink-500">{sentences.blockedGoesTo}</p>
        </div>
      )}
      {data && (
        <Button type="submit" autoFocus>
          {sentences.block}
        </Button>
      )}
      <Button quiet onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}
