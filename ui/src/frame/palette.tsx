import { useMemo, useState } from 'react'
import { Combo } from '../kit/combo'
import { called, nameOf, PALETTE, useCommands, useRegistry, type Command } from './commands'
import { keyName } from './keymap'

/** The palette: every command by its name. */
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
  const found = all.filter((c) => words.every((w) => called(c).includes(w)))
  const run = (c: Command) => {
    close()
    c.run()
  }
  useCommands([{ id: 'close', name: 'Close', keys: ['Escape', 'Ctrl+k'], run: close, hidden: true }], PALETTE)
  return (
    <div
      className="ebb absolute inset-x-0 bottom-0 z-30 mx-auto w-full max-w-2xl rounded-t-[10px] border border-b-0 border-sand-300 bg-sand-0 p-4"
      role="region"
      aria-label="Commands"
    >
      <Combo
        id="palette"
        label="What do you want to do?"
        listLabel="Commands"
        layout="columns"
        autoFocus
        text={text}
        offers={found}
        keyOf={(c) => c.id}
        none={<p className="px-2.5 py-1.5 text-ink-500">No command has these words in its name.</p>}
        onText={setText}
        onTake={run}
      >
        {(c) => (
          <>
            {nameOf(c)}
            <span className="text-[11.5px] font-semibold text-ink-500">{keyName(registry.keys(c)[0] ?? '')}</span>
          </>
        )}
      </Combo>
    </div>
  )
}
