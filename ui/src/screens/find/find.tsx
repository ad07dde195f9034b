import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { Place } from '../../api/gen/inbox'
import type { Query } from '../../api/gen/search'
import { useFind, useLabels } from '../../api/queries'
import { short } from '../../api/times'
import { TextButton } from '../../kit/button'
import { RadioGroup, ToggleGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Failed } from '../../kit/kit'
import { LabelMark } from '../../kit/label'
import { Worktop } from '../worktop/worktop'
import { sentences } from './sentences'

const places = [
  { id: '', name: sentences.everything },
  { id: 'inbox', name: sentences.inbox },
  { id: 'starred', name: sentences.starred },
  { id: 'archived', name: sentences.archived },
  { id: 'snoozed', name: sentences.snoozed },
  { id: 'bin', name: sentences.bin },
]

/** Finds words in everything, unless a filter is set; and lists the starred, the archive and the bin. */
export function Find() {
  const [params, setParams] = useSearchParams()
  const [text, setText] = useState(params.get('words') ?? '')
  const [place, setPlace] = useState(places.find((p) => p.id === params.get('place'))?.id ?? '')
  const [label, setLabel] = useState(Number(params.get('label')) || 0)
  const { data: labels } = useLabels()
  const words = useDeferredValue(text.trim())
  // What is looked for stands in the address: Back, a reload and a link find it again.
  const asked = new URLSearchParams([
    ...(words ? [['words', words]] : []),
    ...(place ? [['place', place]] : []),
    ...(label ? [['label', String(label)]] : []),
  ]).toString()
  useEffect(() => {
    if (asked !== params.toString()) setParams(asked, { replace: true })
  }, [asked, params, setParams])
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
      label={sentences.found}
      groups={groups}
      position={(n, total) => total > 0 && sentences.ofFound(n, total, list.hasNextPage ? sentences.orMore : '')}
      time={(s) => short(s.lastAt)}
      onEnd={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
      head={() => (
        <div className="border-b border-sand-200 px-3.5 pt-3 pb-2.5">
          <Field
            id="find"
            label={sentences.findWordsInSubjects}
            type="text"
            autoFocus
            autoComplete="off"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.nativeEvent.isComposing) return
              if (e.key === 'Enter' || e.key === 'ArrowDown') {
                e.preventDefault()
                e.currentTarget.blur()
              }
            }}
          />
          <RadioGroup
            label={sentences.where}
            look="plain"
            className="mt-2"
            value={place}
            options={places}
            onChange={setPlace}
          />
          {!!labels?.length && (
            <ToggleGroup
              label={sentences.labelled}
              look="plain"
              className="mt-1 max-h-20 overflow-y-auto"
              value={label}
              none={0}
              options={labels.map((l) => ({
                id: l.id,
                name: (
                  <>
                    <LabelMark color={l.color} mark={l.mark} />
                    {l.path}
                  </>
                ),
              }))}
              onChange={setLabel}
            />
          )}
          {list.error && <Failed error={list.error} again={() => void list.refetch()} />}
          {nothing && (
            <p className="mt-3 text-ink-500">
              {words
                ? sentences.nothingWithTheseWords(place ? sentences.isIn(where.name) : sentences.anywhereTheBinIncluded)
                : sentences.nothingIsIn(where.name)}{' '}
              {place && <TextButton onClick={() => setPlace('')}>{sentences.lookEverywhere}</TextButton>}
            </p>
          )}
        </div>
      )}
    />
  )
}
