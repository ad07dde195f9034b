const waiting = new Set<() => void>()

/** Calls that when the program can be reached again; what is given ends it. */
export function whenReached(f: () => void) {
  waiting.add(f)
  return () => void waiting.delete(f)
}

/** The program can be reached again, or somebody has signed in: what waits asks at once. */
export function wake() {
  for (const go of waiting) go()
}

/** Waits before the program is asked again, longer each time it could not be reached; not longer than until it can be. */
export const pause = (times: number) =>
  new Promise<void>((done) => {
    const go = () => {
      clearTimeout(timer)
      waiting.delete(go)
      done()
    }
    const timer = setTimeout(go, Math.min(500 * 2 ** Math.min(times, 5), 10_000))
    waiting.add(go)
  })
