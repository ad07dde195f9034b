import { useState } from 'react'
import { fromAddress } from './address'
import { useCommands } from './commands'

/** A list that is gone through by keys; the key of the chosen line is for the address, as `at`. */
export function useListed<T>(
  lines: T[],
  keyOf: (line: T) => string,
  idOf: (key: string) => string,
  open: (line: T) => void,
) {
  const [at, setAt] = useState(() => fromAddress('at'))
  const index = Math.max(
    0,
    lines.findIndex((l) => keyOf(l) === at),
  )
  const current = lines[index] as T | undefined
  const choose = (l?: T) => {
    if (!l) return
    setAt(keyOf(l))
    document.getElementById(idOf(keyOf(l)))?.scrollIntoView({ block: 'nearest' })
  }
  useCommands([
    { id: 'next', run: () => choose(lines[index + 1]) },
    { id: 'previous', run: () => choose(lines[index - 1]) },
    { id: 'first', run: () => choose(lines[0]) },
    { id: 'last', run: () => choose(lines.at(-1)) },
    {
      id: 'open',
      run: () => {
        if (current) open(current)
      },
    },
  ])
  return { current, at: current ? keyOf(current) : '', setAt, choose }
}
