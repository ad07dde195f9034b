import { pause } from '../api/reach'

const RELOADED = 'ebbe-reloaded'
const AGAIN_AFTER = 60_000

const reachable = () =>
  fetch('/api/v1/session').then(
    (r) => r.ok,
    () => false,
  )

/**
 * Fetches a part of the program when it is needed. While the program is away it waits. A part that is gone is of an
 * older version than the one that runs now: the page is loaded anew, with all that was typed and decided kept. If that
 * has just been done, it is another fault, and the screen says so.
 */
export async function fetched<T>(part: () => Promise<T>): Promise<T> {
  for (let times = 0; ; times++) {
    try {
      return await part()
    } catch (e) {
      if (await reachable()) {
        if (Date.now() - Number(sessionStorage.getItem(RELOADED)) < AGAIN_AFTER) throw e
        sessionStorage.setItem(RELOADED, String(Date.now()))
        location.reload()
        return new Promise(() => {})
      }
      await pause(times)
    }
  }
}
