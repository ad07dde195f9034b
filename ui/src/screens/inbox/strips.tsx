import { CaretDownIcon, CaretRightIcon, CaretUpIcon, XIcon } from '@phosphor-icons/react'
import { useState } from 'react'
import { keyed, post, put } from '../../api/client'
import type { SavedList } from '../../api/desk'
import type { Place } from '../../api/gen/inbox'
import type { Query } from '../../api/gen/search'
import { client, useLabels, useSavedLists } from '../../api/queries'
import { useSlip } from '../../api/slips'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Keeps, useKept } from '../../frame/kept'
import { Button, IconButton, Opener } from '../../kit/button'
import { Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { LabelMark } from '../../kit/label'
import { LineButton } from '../../kit/pieces'
import { Select } from '../../kit/select'
import { Tray } from '../../kit/tray'
import { filtered } from './arrange'
import { sentences } from './sentences'

/** The user's own lists below the queue: folded to a line each, or open. */
export function Strips({ show, shown }: { show: (id: number) => void; shown?: number }) {
  const { data: lists } = useSavedLists()
  const { say } = useDesk()
  const change = (l: SavedList, c: Partial<SavedList>) => {
    client.setQueryData<SavedList[]>(['lists'], (all) => all?.map((x) => (x.id === l.id ? { ...x, ...c } : x)))
    return put('/lists', { ...l, ...c, slips: [] })
      .then(() => client.invalidateQueries({ queryKey: ['lists'] }))
      .catch((e: Error) => say({ text: e.message, wrong: true }))
  }
  const raise = (i: number) => {
    const order = [...lists!]
    order.splice(i - 1, 0, ...order.splice(i, 1))
    for (const [rank, l] of order.entries()) if (l.rank !== rank) void change(l, { rank })
  }
  if (!lists?.length) return null
  return (
    <div
      className="max-h-[42vh] overflow-y-auto border-t border-sand-300 bg-sand-100"
      aria-label={sentences.yourLists}
      role="group"
    >
      {lists.map((l, i) => (
        <section
          key={l.id}
          aria-label={l.name}
          className="group border-b border-sand-200 last:border-b-0"
          data-list={l.name}
        >
          <h2 className="flex items-center px-3.5 text-[12px]">
            <Opener open={!l.folded} className="flex-1 py-[7px]" onClick={() => void change(l, { folded: !l.folded })}>
              {l.folded ? (
                <CaretRightIcon size={11} weight="bold" aria-hidden />
              ) : (
                <CaretDownIcon size={11} weight="bold" aria-hidden />
              )}
              <span className="truncate">{l.name}</span>
            </Opener>
            <span className="hidden gap-0.5 group-focus-within:flex group-hover:flex">
              {i > 0 && (
                <IconButton label={sentences.moveUp(l.name)} onClick={() => raise(i)}>
                  <CaretUpIcon size={12} aria-hidden />
                </IconButton>
              )}
              <IconButton
                label={sentences.deleteTheList(l.name)}
                tip={sentences.deleteTheListWhat}
                onClick={() =>
                  void post(`/lists/${l.id}/drop`).then(() => client.invalidateQueries({ queryKey: ['lists'] }))
                }
              >
                <XIcon size={12} aria-hidden />
              </IconButton>
            </span>
            <span className="ml-1 font-medium text-ink-500">{l.count >= 1000 ? '1,000+' : l.count}</span>
          </h2>
          {!l.folded && (
            <ul className="pb-1">
              {l.slips.map((s) => (
                <ListLine key={s.id} id={s.id} on={s.id === shown} show={show} />
              ))}
              {!l.slips.length && (
                <li className="px-[26px] pb-1.5 text-[12px] text-ink-500">{sentences.nothingIsOnIt}</li>
              )}
            </ul>
          )}
        </section>
      ))}
    </div>
  )
}

function ListLine({ id, on, show }: { id: number; on: boolean; show: (id: number) => void }) {
  const slip = useSlip(id)
  if (!slip) return null
  return (
    <li>
      <LineButton row on={on} className="gap-2 px-[26px] py-1 text-[12.5px]" onClick={() => show(id)}>
        <b className="max-w-[38%] shrink-0 truncate font-semibold">{slip.from}</b>
        <span className="min-w-0 flex-1 truncate text-ink-700">{slip.title || slip.subject}</span>
        <span className="shrink-0 text-[11.5px] text-ink-500">{short(slip.lastAt)}</span>
      </LineButton>
    </li>
  )
}

const places = [
  { id: '', name: sentences.anywhere },
  { id: 'inbox', name: sentences.inTheInbox },
  { id: 'snoozed', name: sentences.snoozed },
  { id: 'archived', name: sentences.inTheArchive },
]

/** Keeps a search as a list in view beside the inbox. */
export function ListTray({ where, onClose }: { where: Query; onClose: () => void }) {
  const { data: labels } = useLabels()
  const [name, setName] = useState('')
  const [query, setQuery] = useState<Query>(where)
  const [wrong, setWrong] = useState('')
  const kept = useKept()
  const [keyOf] = useState(keyed)
  const keep = async () => {
    try {
      const list = { id: 0, name, query, folded: false, rank: 0 }
      await put('/lists', list, keyOf(list))
      kept.forget('list')
      await client.invalidateQueries({ queryKey: ['lists'] })
      onClose()
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  const set = (q: Query) => {
    setQuery(q)
    setWrong('')
  }
  const said = filtered(query, labels ?? [])
  return (
    <Keeps name="list" what={sentences.aList}>
      <Tray
        label={sentences.aListBesideThe}
        testid="list-tray"
        layout="line"
        onClose={onClose}
        onSubmit={() => {
          void keep()
        }}
      >
        <Field
          id="list-name"
          label={sentences.whatIsTheList}
          value={name}
          autoFocus
          autoComplete="off"
          placeholder={sentences.toRead}
          maxLength={60}
          onChange={(e) => {
            setName(e.target.value)
            setWrong('')
          }}
        />
        <Field
          id="list-words"
          label={sentences.withTheWordsOptional}
          value={query.words ?? ''}
          autoComplete="off"
          onChange={(e) => {
            const q: Query = { ...query, words: e.target.value }
            if (!q.words) delete q.words
            set(q)
          }}
        />
        <div>
          <span className="mb-1 block text-[11.5px] font-[650] text-ink-500">{sentences.labelledTitle}</span>
          <div className="flex max-w-md flex-wrap gap-1">
            {labels?.map((l) => (
              <Toggle
                key={l.id}
                on={query.label === l.id}
                onChange={(on) => {
                  const q: Query = { ...query, label: l.id }
                  if (!on) delete q.label
                  set(q)
                }}
              >
                <LabelMark color={l.color} mark={l.mark} />
                {l.path}
              </Toggle>
            ))}
            {(
              [
                ['starred', 'starred'],
                ['flagged', sentences.withAFollowUp],
              ] as const
            ).map(([k, words]) => (
              <Toggle
                key={k}
                on={!!query[k]}
                onChange={(on) => {
                  const q: Query = { ...query, [k]: true }
                  if (!on) delete q[k]
                  set(q)
                }}
              >
                {words}
              </Toggle>
            ))}
          </div>
        </div>
        <Select
          label={sentences.where}
          value={query.place ?? ''}
          options={places}
          onChange={(place) => {
            const q: Query = { ...query, place: place as Place }
            if (!q.place) delete q.place
            set(q)
          }}
        />
        <Button type="submit">{sentences.saveTheList}</Button>
        <p
          className={`w-full text-[12.5px] ${wrong ? 'text-coral-600' : 'text-ink-500'}`}
          role={wrong ? 'alert' : undefined}
        >
          {wrong || (said ? sentences.itHoldsWhatIs(said) : sentences.sayWhatIsOn)}
        </p>
      </Tray>
    </Keeps>
  )
}
