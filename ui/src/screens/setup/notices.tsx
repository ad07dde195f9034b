import { cx } from '../../kit/cx'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { get } from '../../api/client'
import { Failed } from '../../kit/kit'

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
    <section aria-labelledby="notices" data-testid="notices">
      <h2 id="notices" className="mb-2 text-[15px]">
        What ships with Ebbe
      </h2>
      <p className="mb-2 text-ink-500">Ebbe is built with the work of others. These are their notices.</p>
      <details
        onToggle={(e) => {
          if (e.target === e.currentTarget) setOpen(e.currentTarget.open)
        }}
      >
        <summary className="cursor-pointer rounded-[7px] py-1 text-accent focus-visible:outline-2 focus-visible:outline-tide-400">
          {data ? `${data.length} packages and fonts` : 'Packages and fonts'}
        </summary>
        {error && <Failed error={error} again={() => void refetch()} />}
        <ul className="mt-2 max-h-[420px] overflow-y-auto border-y border-sand-200">
          {data?.map((n) => (
            <li key={n.name + n.version} className="border-t border-sand-200 first:border-t-0">
              <details>
                <summary
                  className={cx(
                    'flex cursor-pointer items-baseline gap-3 px-1 py-1.5 focus-visible:outline-2',
                    'focus-visible:-outline-offset-2 focus-visible:outline-tide-400',
                  )}
                >
                  <span className="min-w-0 flex-1 truncate">{n.name}</span>
                  <span className="text-[12.5px] text-ink-500 tabular-nums">{n.version}</span>
                </summary>
                <pre className="px-1 pb-3 text-[12px] leading-normal whitespace-pre-wrap text-ink-500">{n.text}</pre>
              </details>
            </li>
          ))}
        </ul>
      </details>
    </section>
  )
}
