const RESTS = 40 // ms without another key, in which a screen has painted what has changed
const LATEST = 160 // ms, for hands that do not rest

let waits: (() => void)[] = []
let since = 0
let timer = 0

/**
 * Does that once what has just changed is painted and the hand rests: a key is answered first, and then what else it
 * needs is done, for several keys together where they come quickly.
 */
export function afterPaint(f: () => void) {
  const now = performance.now()
  if (!waits.length) since = now
  waits.push(f)
  clearTimeout(timer)
  timer = window.setTimeout(rests, Math.max(0, Math.min(RESTS, since + LATEST - now)))
}

function rests() {
  const all = waits
  waits = []
  for (const f of all) {
    try {
      f()
    } catch (e) {
      reportError(e) // the others are done all the same
    }
  }
}

/** When what has just changed is painted. */
export const painted = () => new Promise<void>(afterPaint)
