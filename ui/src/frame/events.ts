import { api } from '../api/base'
import type { Event } from '../api/gen/journal'
import { wake, whenReached } from '../api/reach'

const QUIET = 70_000 // the program says something every 25 seconds, so by then the line is dead

/** What is done with what the program says by itself. */
interface Ears {
  /** It speaks; again says that something may have been missed before. */
  hello: (again: boolean) => void
  changed: (e: Event) => void
  lost: () => void
}

/** Hears what the program says by itself, and after any failure begins to listen again. The function given ends it. */
export function listen(ears: Ears): () => void {
  let source: EventSource | undefined
  let failures = 0
  let heard = 0
  let timer = 0
  const open = () => {
    clearTimeout(timer)
    source?.close()
    heard = Date.now()
    const s = (source = new EventSource(api + '/events'))
    const alive = () => (heard = Date.now())
    s.addEventListener('hello', () => {
      alive()
      const again = failures > 0
      failures = 0
      ears.hello(again)
      if (again) wake()
    })
    s.addEventListener('changed', (m) => {
      alive()
      ears.changed(JSON.parse((m as MessageEvent<string>).data) as Event)
    })
    s.addEventListener('still', alive)
    s.onerror = () => {
      if (s !== source) return
      s.close()
      failures++
      ears.lost()
      clearTimeout(timer)
      timer = window.setTimeout(open, Math.min(500 * 2 ** Math.min(failures - 1, 5), 10_000))
    }
  }
  const now = () => {
    if (failures || Date.now() - heard > QUIET) {
      failures = Math.max(1, failures)
      open()
    }
  }
  const watch = window.setInterval(now, QUIET / 2)
  window.addEventListener('online', now)
  document.addEventListener('visibilitychange', now)
  const unheard = whenReached(now)
  open()
  return () => {
    unheard()
    clearTimeout(timer)
    clearInterval(watch)
    window.removeEventListener('online', now)
    document.removeEventListener('visibilitychange', now)
    const s = source
    source = undefined
    s?.close()
  }
}
