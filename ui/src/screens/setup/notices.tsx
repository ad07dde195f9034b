import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get } from '../../api/client'
import { Collapsible } from '../../kit/collapsible'
import { Failed } from '../../kit/kit'
import { Part } from './part'
import { sentences } from './sentences'

interface Notice {
  name: string
  version: string
  text: string
}

/** The licences of everything that ships with Ebbe, loaded when they are asked for. */
export function Notices() {
  const [open, setOpen] = useState(false)
  const { data, error, refetch } = useQuery({
    queryKey: ['notices'],
    queryFn: () => get<Notice[]>('/notices'),
    enabled: open,
    staleTime: Infinity,
  })
  return (
    <Part id="notices" testid="notices" name={sentences.whatShipsWithEbbe} about={sentences.ebbeIsBuiltWith}>
      <Collapsible
        open={open}
        onOpenChange={setOpen}
        headClass="py-1 text-accent"
        head={data ? sentences.packagesAndFonts(data.length) : sentences.packagesAndFontsTitle}
      >
        {error && <Failed error={error} again={() => void refetch()} />}
        <ul className="mt-2 max-h-[420px] overflow-y-auto border-y border-sand-200">
          {data?.map((n) => (
            <Shipped key={n.name + n.version} n={n} />
          ))}
        </ul>
      </Collapsible>
    </Part>
  )
}

function Shipped({ n }: { n: Notice }) {
  const [open, setOpen] = useState(false)
  return (
    <li className="border-t border-sand-200 first:border-t-0">
      <Collapsible
        open={open}
        onOpenChange={setOpen}
        headClass="px-1 py-1.5"
        head={
          <>
            <span className="min-w-0 flex-1 truncate">{n.name}</span>
            <span className="text-[12.5px] text-ink-500 tabular-nums">{n.version}</span>
          </>
        }
      >
        <pre className="px-1 pb-3 text-[12px] leading-normal whitespace-pre-wrap text-ink-500">{n.text}</pre>
      </Collapsible>
    </li>
  )
}
