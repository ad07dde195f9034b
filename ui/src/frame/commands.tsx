import { createContext, type ReactNode, useContext, useEffect, useLayoutEffect, useMemo, useRef } from 'react'
import { keyName, keysOf, knownOf } from './keymap'
import { meanings, moves, typing } from './keys'
import { sentences } from './sentences'

/** Something the user can do: by its key, or by its name in the palette. What is not given comes from the keymap. */
export interface Command {
  id: string
  name?: string
  keys?: string[] // its usual keys
  run: () => void
  hidden?: boolean // has a key but no line in the palette
  typing?: boolean // its key counts while one types, too
  note?: string // what stands in place of its key in the palette
}

interface Registry {
  add: (commands: Command[], level: number) => () => void
  /** All commands, the nearest first. */
  list: () => (Command & { level: number })[]
  keys: (c: Command) => string[]
  /** Runs the nearest command of that name, if there is one. */
  run: (id: string) => void
  /** A tray is open: what moves about, and what is pressed on its controls, is its own. */
  cover: (tray: HTMLElement) => () => void
}

const Context = createContext<Registry | null>(null)

/** How near to the user commands are: a nearer one takes a key from one farther away. */
export const FRAME = 0,
  SCREEN = 1,
  DOCK = 2,
  TRAY = 3,
  PALETTE = 4

/** Runs commands by their keys: the nearest first, and of those the one registered last. */
export function Commands({ own, children }: { own: Record<string, string>; children: ReactNode }) {
  const mine = useRef(own)
  useLayoutEffect(() => {
    mine.current = own
  })
  const stack = useRef<{ commands: Command[]; level: number }[]>([])
  const trays = useRef(new Set<HTMLElement>())
  const registry = useMemo<Registry>(() => {
    const list = () =>
      [...stack.current]
        .reverse()
        .sort((a, b) => b.level - a.level)
        .flatMap((e) => e.commands.map((c) => ({ ...c, level: e.level })))
    return {
      add: (commands, level) => {
        const entry = { commands, level }
        stack.current.push(entry)
        return () => {
          stack.current = stack.current.filter((e) => e !== entry)
        }
      },
      list,
      run: (id) =>
        list()
          .find((c) => c.id === id)
          ?.run(),
      keys: (c) => keysOf(c.id, mine.current, c.keys),
      cover: (tray) => {
        trays.current.add(tray)
        return () => {
          trays.current.delete(tray)
        }
      },
    }
  }, [])
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const keys = e.defaultPrevented ? [] : meanings(e)
      if (!keys.length) return
      const writes = typing(e.target) && keys[0] !== 'Escape' && keys[0] !== 'Ctrl+k'
      const target = e.target instanceof HTMLElement ? e.target : null
      if (/^(Enter| )$/.test(keys[0]) && target?.closest('button, a, summary, [role=option]:not([data-slip])')) return
      const covered = trays.current.size > 0
      const inTray = !!target && [...trays.current].some((t) => t !== target && t.contains(target))
      const counts = (c: Command & { level: number }, key: string) => {
        if (writes && !c.typing) return false
        if (!covered || c.level >= TRAY) return true
        return !moves(key) && (!inTray || c.typing || /^(Escape|Ctrl\+.*|(Shift\+)?F\d+)$/.test(key))
      }
      const list = registry.list()
      for (const key of keys) {
        const command = list.find((c) => registry.keys(c).includes(key) && counts(c, key))
        if (!command) continue
        e.preventDefault()
        if (moves(key) && !inTray && target?.closest(sentences.buttonA)) intoList(target)
        command.run()
        return
      }
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [registry])
  return <Context.Provider value={registry}>{children}</Context.Provider>
}

/** Whoever moves about in a list has left the button that was pressed before: Enter is not its key any more. */
function intoList(from: HTMLElement) {
  const list = document.querySelector<HTMLElement>('main [role=listbox][tabindex]')
  if (list) list.focus({ preventScroll: true })
  else from.blur()
}

/** Makes commands available while the component is shown. */
export function useCommands(commands: Command[], level = SCREEN) {
  const registry = useContext(Context)!
  const latest = useRef(commands)
  useLayoutEffect(() => {
    latest.current = commands
  }) // before it is painted: a key always acts on what is seen
  const shape = commands.map((c) => c.id + (c.keys ?? []).join()).join('|')
  useLayoutEffect(
    // with what is painted: no key falls between the two
    () =>
      registry.add(
        latest.current.map((c) => ({ ...c, run: () => latest.current.find((l) => l.id === c.id)?.run() })),
        level,
      ),
    [registry, shape, level],
  )
}

export const useRegistry = () => useContext(Context)!

/** Tells the keys that a tray is open, if there are any. */
export const useCover = () => useContext(Context)?.cover

export const nameOf = (c: Command) => c.name ?? knownOf(c.id)?.name ?? c.id

/** The first key of a command, as it is shown on its button. */
export function useKey(id: string, usual?: string[]) {
  const registry = useRegistry()
  return keyName(registry.keys({ id, keys: usual, run: () => {} })[0] ?? '')
}
