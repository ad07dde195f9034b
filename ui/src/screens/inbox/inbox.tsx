import { useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Slip } from '../../api/gen/desk'
import { prefetchConversation, useQueue } from '../../api/queries'
import { Failed } from '../../kit/kit'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Conversation } from './conversation'
import { Dock, DockSide } from './dock'
import { SlipList, type Group } from './sliplist'
import { sectionNames } from './why'
import { Zero } from './zero'

const LOOK_AFTER = 1000 // ms a conversation has to be shown for it to count as a look
const AHEAD = 3 // conversations fetched before they are asked for

/** The queue, the reading column, and the dock: one decision each. */
export function Inbox() {
  const queue = useQueue()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<number>()
  const [opened, setOpened] = useState(false) // on a narrow screen: reading, not choosing
  const place = useRef(0)

  const pages = queue.data?.pages
  const slips = useMemo(() => pages?.flatMap((p) => p.slips) ?? [], [pages])
  const groups = useMemo<Group[]>(() => {
    const by = new Map<string, Slip[]>()
    for (const s of slips) by.set(s.section ?? '', [...(by.get(s.section ?? '') ?? []), s])
    const counts = pages?.[0]?.sections ?? []
    return counts.map((c) => ({ key: c.section, name: sectionNames[c.section] ?? c.section, count: c.count, slips: by.get(c.section) ?? [] }))
  }, [slips, pages])

  const found = slips.findIndex((s) => s.id === chosen)
  const index = found >= 0 ? found : Math.min(place.current, slips.length - 1)
  const slip = slips[index] as Slip | undefined
  useEffect(() => { if (index >= 0) place.current = index }, [index])

  // Moving on without a decision, after having looked at it, is one more look.
  const shownSince = useRef({ id: 0, at: 0 })
  useEffect(() => { shownSince.current = { id: slip?.id ?? 0, at: performance.now() } }, [slip?.id])
  const leave = () => {
    const { id, at } = shownSince.current
    if (id && performance.now() - at > LOOK_AFTER) desk.look(id)
  }
  const choose = (s?: Slip) => {
    if (!s || s.id === slip?.id) return
    leave()
    setChosen(s.id)
  }
  const onAway = (s: Slip) => {
    const at = slips.findIndex((x) => x.id === s.id)
    const next = slips[at + 1] ?? slips[at - 1]
    shownSince.current = { id: 0, at: 0 }
    setChosen(next?.id)
    if (!next) setOpened(false)
  }

  useEffect(() => {
    for (const s of slips.slice(index + 1, index + 1 + AHEAD)) void prefetchConversation(s.id)
  }, [index, slips])

  useCommands([
    { id: 'next', name: 'Next conversation', keys: ['ArrowDown'], run: () => choose(slips[index + 1]) },
    { id: 'previous', name: 'Previous conversation', keys: ['ArrowUp'], run: () => choose(slips[index - 1]) },
    { id: 'first', name: 'First conversation', keys: ['Home'], run: () => choose(slips[0]) },
    { id: 'last', name: 'Last conversation', keys: ['End'], run: () => choose(slips.at(-1)) },
    { id: 'open', name: 'Open on its own', keys: ['Enter'], run: () => { if (slip) { leave(); void navigate('/c/' + slip.id) } } },
    { id: 'back', name: 'Back', keys: ['Escape'], run: () => setOpened(false), hidden: true },
    { id: 'take-back', name: 'Take back the last decision', keys: ['Ctrl+z'], run: () => void desk.takeBack().then((d) => d?.first && setChosen(d.first)) },
    { id: 'again', name: 'Do again what was taken back', keys: ['Ctrl+Shift+z', 'Ctrl+y'], run: () => void desk.again() },
  ])

  if (queue.error && !pages) return <Failed error={queue.error} again={() => void queue.refetch()} />
  if (!pages) return null
  const left = pages[0].left
  if (!slip) {
    return (
      <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
        <Zero />
        <div className="flex min-h-[60px] items-center border-t border-sand-300 bg-sand-100 px-4 py-[11px]"><DockSide position="Nothing left to decide" /></div>
      </div>
    )
  }
  return (
    <div className={`inbox-grid ${opened ? 'opened' : ''}`}>
      <section aria-label="Queue" className="queue-column min-h-0 border-r border-sand-200 bg-sand-50">
        <SlipList
          label="Left to decide"
          groups={groups}
          selected={slip.id}
          onSelect={(s) => { choose(s); setOpened(true) }}
          onOpen={(s) => void navigate('/c/' + s.id)}
          onEnd={queue.hasNextPage && !queue.isFetching ? () => void queue.fetchNextPage() : undefined}
        />
      </section>
      <Conversation id={slip.id} slip={slip} back={() => setOpened(false)} />
      <Dock slip={slip} onAway={onAway} position={`${(index + 1).toLocaleString('en-GB')} of ${left.toLocaleString('en-GB')}`} />
    </div>
  )
}
