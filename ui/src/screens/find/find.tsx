import { useDeferredValue, useMemo, useState } from 'react'
import { useFind } from '../../api/queries'
import { short } from '../../api/times'
import { Failed } from '../../kit/kit'
import { useSearchParams } from 'react-router'
import { useLabels } from '../../api/queries'
import { LabelMark } from '../../kit/label'
import { Worktop } from '../worktop/worktop'
import type { Place } from '../../api/gen/inbox'
import type { Query } from '../../api/gen/search'

const places = [
  { id: '', name: 'everything' },
  { id: 'inbox', name: 'inbox' },
  { id: 'starred', name: 'starred' },
  { id: 'archived', name: 'archived' },
  { id: 'snoozed', name: 'snoozed' },
  { id: 'bin', name: 'bin' },
]

/** Finds words in everything, unless a filter is set; and lists the starred, the archive and the bin. */
export function Find() {
  const [params] = useSearchParams()
  const [text, setText] = useState('')
  const [place, setPlace] = useState('')
  const [label, setLabel] = useState(Number(params.get('label')) || 0)
  const { data: labels } = useLabels()
  const words = useDeferredValue(text.trim())
  const query = useMemo(() => {
    const q: Query = {}
    if (words) q.words = words
    if (label) q.label = label
    if (place === 'starred') q.starred = true
    else if (place) q.place = place as Place
    return q
  }, [words, place, label])
  const list = useFind(query)
  const groups = useMemo(
    () => [{ key: 'found', name: '', ids: list.data?.pages.flatMap((p) => p.slips.map((s) => s.id)) ?? [] }],
    [list.data],
  )
  const where = places.find((p) => p.id === place)!
  const nothing = list.data && !groups[0].ids.length
  return (
    <Worktop
      label="Found"
      groups={groups}
      position={(n, total) => total > 0 && `${n} of ${total}${list.hasNextPage ? ' or more' : ''} found`}
      time={(s) => short(s.lastAt)}
      onEnd={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
      head={() => (
        <div className="border-b border-sand-200 px-3.5 pt-3 pb-2.5">
          <label htmlFor="find" className="mb-1 block text-[11.5px] font-[650] text-ink-500">
            Find words in subjects, texts, people and file names
          </label>
          <input
            id="find"
            type="text"
            autoFocus
            autoComplete="off"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter' || e.key === 'ArrowDown') {
                e.preventDefault()
                e.currentTarget.blur()
              }
            }}
            className="w-full rounded-[9px] border-[1.5px] border-fill bg-sand-0 px-3 py-1.5 text-[14px] outline-none focus:ring-2 focus:ring-tide-200"
          />
          <div role="group" aria-label="Where" className="mt-2 flex flex-wrap gap-1">
            {places.map((p) => (
              <button
                type="button"
                key={p.id}
                aria-pressed={p.id === place}
                onClick={() => setPlace(p.id)}
                className={`rounded-[7px] px-2 py-0.5 text-[12px] ${p.id === place ? 'bg-tide-100 font-semibold text-tide-800' : 'text-ink-500 hover:bg-sand-100'}`}
              >
                {p.name}
              </button>
            ))}
          </div>
          {!!labels?.length && (
            <div role="group" aria-label="Labelled" className="mt-1 flex max-h-20 flex-wrap gap-1 overflow-y-auto">
              {labels.map((l) => (
                <button
                  type="button"
                  key={l.id}
                  aria-pressed={l.id === label}
                  onClick={() => setLabel(l.id === label ? 0 : l.id)}
                  className={`flex items-center gap-1 rounded-[7px] px-1.5 py-0.5 text-[12px] ${l.id === label ? 'bg-tide-100 font-semibold text-tide-800' : 'text-ink-500 hover:bg-sand-100'}`}
                >
                  <LabelMark color={l.color} mark={l.mark} />
                  {l.path}
                </button>
              ))}
            </div>
          )}
          {list.error && <Failed error={list.error} again={() => void list.refetch()} />}
          {nothing && (
            <p className="mt-3 text-ink-500">
              {words
                ? `Nothing with these words ${place ? 'is in: ' + where.name : 'anywhere, the bin included'}.`
                : `Nothing is in: ${where.name}.`}{' '}
              {place && (
                <button type="button" className="font-semibold text-accent" onClick={() => setPlace('')}>
                  Look everywhere
                </button>
              )}
            </p>
          )}
        </div>
      )}
    />
  )
}
