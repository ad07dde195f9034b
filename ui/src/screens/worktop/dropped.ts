let waiting: File[] = []
const listeners = new Set<() => void>()

/** Files were dropped on a conversation of a team: they are for its comment tray, which may have to open first. */
export function dropped(files: Iterable<File>) {
  waiting = [...waiting, ...files]
  for (const l of listeners) l()
}

/** Gives those that nobody has taken yet. */
export function takeDropped(): File[] {
  const all = waiting
  waiting = []
  return all
}

/** Hears of them, until it is called. */
export function onDropped(hear: () => void): () => void {
  listeners.add(hear)
  return () => void listeners.delete(hear)
}
