import { PaperclipIcon } from '@phosphor-icons/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useRef, useState } from 'react'
import type { MessageView } from '../../api/desk'
import { called } from '../../api/names'
import { short } from '../../api/times'
import { ToggleGroup } from '../../kit/choose'
import { LineButton } from '../../kit/pieces'
import { sentences } from './sentences.trays'

const MOST = 6 // people that are named
const LINE = 43 // px of a message

const whoOf = (m: MessageView) => (m.own ? sentences.you : called(m.from.name || m.from.address))

/** What a long conversation holds, a line for each message; of one person alone, if that is chosen. */
export function Outline({ messages, go }: { messages: MessageView[]; go: (message: number) => void }) {
  const [who, setWho] = useState('')
  const scroll = useRef<HTMLDivElement>(null)
  const counts = new Map<string, number>()
  for (const m of messages) counts.set(whoOf(m), (counts.get(whoOf(m)) ?? 0) + 1)
  const people = [...counts].sort((a, b) => b[1] - a[1]).slice(0, MOST)
  const shown = messages.filter((m) => !who || whoOf(m) === who)
  const fresh = shown.findIndex((m) => m.fresh)
  const lines = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => LINE,
    initialOffset: Math.max(0, (fresh < 0 ? shown.length : fresh) - 1) * LINE,
    overscan: 4,
  })
  return (
    <section aria-label={sentences.outline} data-testid="outline" className="mb-4 border-b border-sand-200 pb-3">
      <h2 className="mb-1.5 text-[13.5px] font-[650]">{sentences.messagesIn(messages.length)}</h2>
      {people.length > 1 && (
        <ToggleGroup
          label={sentences.writtenBy}
          className="mb-1.5"
          value={who}
          none=""
          options={people.map(([name, n]) => ({ id: name, name: sentences.nameWith(name, n) }))}
          onChange={setWho}
        />
      )}
      <div ref={scroll} className="max-h-[44vh] overflow-y-auto">
        <ol className="relative" style={{ height: lines.getTotalSize() }}>
          {lines.getVirtualItems().map(({ index, start }) => (
            <li
              key={shown[index].id}
              className="absolute inset-x-0 h-[43px]"
              style={{ transform: `translateY(${start}px)` }}
              aria-posinset={index + 1}
              aria-setsize={shown.length}
            >
              <Line m={shown[index]} go={go} />
            </li>
          ))}
        </ol>
      </div>
    </section>
  )
}

const Line = ({ m, go }: { m: MessageView; go: (message: number) => void }) => (
  <LineButton className="rounded-[6px] px-1 py-1" onClick={() => go(m.id)}>
    <span className="flex items-baseline gap-1.5">
      {m.fresh && <span className="size-1.5 shrink-0 rotate-45 rounded-[1px] bg-coral-600" aria-hidden />}
      <b className="min-w-0 flex-1 truncate font-semibold">
        {whoOf(m)}
        {m.fresh && <span className="sr-only">{sentences.isNew}</span>}
      </b>
      {m.files.length > 0 && <PaperclipIcon size={11} aria-label={sentences.withFiles} />}
      <span className="shrink-0 text-[11.5px] text-ink-500">{short(m.date)}</span>
    </span>
    {m.begins && <span className="block truncate text-ink-500">{m.begins}</span>}
  </LineButton>
)
