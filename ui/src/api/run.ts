import { now } from './times'

// What was decided one after the other on one screen of this page: Ctrl Z takes that back at once.
let screen = ''
let from = 0
const keys = new Set<string>()
try {
  ;[screen, from] = JSON.parse(sessionStorage.run as string) as [string, number] // a page that is loaded again goes on
} catch {
  // it begins anew
}
const here = () => String(location.pathname).split('/')[1]
function set(at: string, since: number) {
  screen = at
  from = since
  try {
    sessionStorage.run = JSON.stringify([at, since])
  } catch {
    // it is only of this page then
  }
}

/** Something is asked for from here; some of it without anything being decided. */
export function asks(path: string, key: string) {
  keys.add(key)
  if (here() !== screen && !/(take-back|preview|line|look|looks\/\d+|noted|clock|drafts(\/\d+)?)$/.test(path))
    set(here(), now())
}
/** Something was decided; elsewhere if not with a key of this page. */
export const heard = (key: string) => keys.has(key) || set('-', 0)
/** From when on decisions are of this screen, by a clock that may differ by half a second. */
export const since = () => (screen === here() ? from - 500 : now() + 1e8)
