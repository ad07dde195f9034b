import { useMemo, useState } from 'react'
import { Combo } from '../kit/combo'
import { called, type Command, nameOf, PALETTE, useCommands, useRegistry } from './commands'
import { keyName } from './keymap'
import { sentences } from './sentences'

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
            <span className="text-[11.5px] font-semibold text-ink-500">{keyName(registry.keys(c)[0] ?? '')}</span>
          </>
        )}
      </Combo>
    </div>
  )
}
