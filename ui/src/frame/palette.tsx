import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { get } from '../api/client'
import type { Jump } from '../api/desk'
import { Combo } from '../kit/combo'
import { also } from './also'
import { type Command, nameOf, PALETTE, useCommands, useRegistry } from './commands'
import { keyName } from './keymap'
import { sentences } from './sentences'

const toJump: Record<string, (key: string, name: string) => string> = {
  person: (key) => '/person/' + encodeURIComponent(key),
  conversation: (key) => '/c/' + key,
  'follow-up': (key) => '/follow-ups/' + key,
  label: (_, name) => '/find?asked=' + encodeURIComponent(`label “${name}”`),
}
const jumpNames: Record<string, string> = {
  person: sentences.person,
  conversation: sentences.conversation,
  'follow-up': sentences.followUp,
  label: sentences.label,
}

/** All that a command is called: its name, and other words for it. */
const called = (c: Command) => `${nameOf(c)} ${also[c.id] ?? ''}`.toLowerCase()

/** Whom and what a few letters may mean, as commands that go there. */
function useJumps(letters: string): Command[] {
  const navigate = useNavigate()
  const asked = useDeferredValue(letters.trim())
  const { data } = useQuery({
    queryKey: ['jump', asked],
    queryFn: ({ signal }) => get<Jump[]>('/jump?letters=' + encodeURIComponent(asked), signal),
    enabled: asked.length > 1,
    staleTime: 0,
    placeholderData: (before) => before,
  })
  if (asked.length < 2) return []
  return (data ?? []).map((j) => ({
    id: `jump-${j.kind}-${j.key}`,
    name: j.note ? `${j.name} · ${j.note}` : j.name,
    note: jumpNames[j.kind],
    // Where one is looking for something already, it is told what to look for now.
    run: () => void navigate(toJump[j.kind](j.key, j.name), { state: { jumped: performance.now() } }),
  }))
}

/** The palette: every command by its name, and people, conversations, follow-ups and labels by a few letters. */
export function Palette({ close }: { close: () => void }) {
  const registry = useRegistry()
  const [text, setText] = useState('')
  const all = useMemo(() => {
    const seen = new Set<string>()
    return registry
      .list()
      .filter((c) => !c.hidden && c.id !== 'palette' && c.id !== 'close' && !seen.has(c.id) && seen.add(c.id))
  }, [registry])
  const words = text.toLowerCase().split(/\s+/)
  const jumps = useJumps(text)
  const found = [...all.filter((c) => words.every((w) => called(c).includes(w))), ...jumps]
  const run = (c: Command) => {
    close()
    c.run()
  }
  useCommands([{ id: 'close', name: sentences.close, keys: ['Escape', 'Ctrl+k'], run: close, hidden: true }], PALETTE)
  return (
    <div
      className="ebb absolute inset-x-0 bottom-0 z-30 mx-auto w-full max-w-2xl rounded-t-[10px] border border-b-0 border-sand-300 bg-sand-0 p-4"
      role="region"
      aria-label={sentences.commands}
    >
      <Combo
        id="palette"
        label={sentences.whatDoYouWant}
        listLabel={sentences.commands}
        layout="columns"
        autoFocus
        text={text}
        offers={found}
        keyOf={(c) => c.id}
        none={<p className="px-2.5 py-1.5 text-ink-500">{sentences.noCommandHasThese}</p>}
        onText={setText}
        onTake={run}
      >
        {(c) => (
          <>
            {nameOf(c)}
            <span className="text-[11.5px] font-semibold text-ink-500">
              {c.note ?? keyName(registry.keys(c)[0] ?? '')}
            </span>
          </>
        )}
      </Combo>
    </div>
  )
}
