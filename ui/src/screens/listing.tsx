import { useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Slip } from '../api/gen/desk'
import { useCommands } from '../frame/commands'
import { useDesk } from '../frame/desk'
import { Conversation } from './inbox/conversation'
import { Dock } from './inbox/dock'
import { SlipList, type Group } from './inbox/sliplist'

interface Props {
  label: string
  name: string // of one slip among others: "3 of 12 snoozed"
  groups: Group[]
  onEnd?: () => void
  time?: (slip: Slip) => string
  head?: React.ReactNode
}

/** A list of conversations outside the inbox: slips, reading column and dock. */
export function Listing({ label, name, groups, onEnd, time, head }: Props) {
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<number>()
  const [opened, setOpened] = useState(false)
  const place = useRef(0)
  const slips = groups.flatMap((g) => g.slips)
  const found = slips.findIndex((s) => s.id === chosen)
  const index = found >= 0 ? found : Math.min(place.current, slips.length - 1)
  const slip = slips[index] as Slip | undefined
  useEffect(() => { if (index >= 0) place.current = index }, [index])
  const choose = (s?: Slip) => { if (s) setChosen(s.id) }
  useCommands([
    { id: 'next', name: 'Next conversation', keys: ['ArrowDown'], run: () => choose(slips[index + 1]) },
    { id: 'previous', name: 'Previous conversation', keys: ['ArrowUp'], run: () => choose(slips[index - 1]) },
    { id: 'open', name: 'Open on its own', keys: ['Enter'], run: () => { if (slip) void navigate('/c/' + slip.id) } },
    { id: 'back', name: 'Back', keys: ['Escape'], run: () => setOpened(false), hidden: true },
    { id: 'take-back', name: 'Take back the last decision', keys: ['Ctrl+z'], run: () => void desk.takeBack().then((d) => d?.first && setChosen(d.first)) },
  ])
  return (
    <div className={`inbox-grid ${opened ? 'opened' : ''}`}>
      <section aria-label={label} className="queue-column grid min-h-0 grid-rows-[auto_minmax(0,1fr)] border-r border-sand-200 bg-sand-50">
        <div>{head}</div>
        <SlipList label={label} groups={groups} selected={slip?.id} time={time} onEnd={onEnd} onSelect={(s) => { choose(s); setOpened(true) }} onOpen={(s) => void navigate('/c/' + s.id)} />
      </section>
      {slip ? <Conversation id={slip.id} slip={slip} back={() => setOpened(false)} /> : <><span className="reading-column bg-sand-0" /><span className="between border-l border-sand-200" /></>}
      <Dock slip={slip} onAway={() => setOpened(false)} position={slip && `${index + 1} of ${slips.length}${onEnd ? ' or more' : ''} ${name}`} />
    </div>
  )
}
