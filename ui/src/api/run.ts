import { within } from './base'
import { now } from './times'

// What was decided one after the other on one screen of this page: Ctrl Z takes that back at once.
let screen = ''
let from = 0
const keys = new Set<string>()
const here = () => within(String(location.pathname)).split('/')[1]
/** Something is asked for from here; some of it without anything being decided. */
export function asks(path: string, key: string) {
  keys.add(key)
  if (here() === screen || /(take-back|preview|line|look|looks\/\d+|noted|clock|drafts(\/\d+)?)$/.test(path)) return
  screen = here()
  from = now()
}
/** Something was decided; elsewhere if not with a key of this page. */
export function heard(key: string) {
  if (!keys.has(key)) screen = '-'
}
/** From when on decisions are of this screen, by a clock that may differ by half a second. */
export const since = () => (screen === here() ? from - 500 : now() + 1e8)
