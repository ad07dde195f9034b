const LATEST = 70 // ms: where nothing is painted, as in a window that is not seen

/** Does that once what has just changed is painted: a key is answered first, and then what else it needs is done. */
export function afterPaint(f: () => void) {
  let done = false
  const once = () => {
    if (done) return
    done = true
    f()
  }
  // The first frame is drawn after its callbacks, and is on its way to the screen when the next begins.
  requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(once)))
  setTimeout(once, LATEST)
}

/** When what has just changed is painted. */
export const painted = () => new Promise<void>(afterPaint)
