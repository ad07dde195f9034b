import type { Queue } from './desk'

// The orders that have been read last, each by how it was asked for: of one that is known only what has changed is said.
const orders = new Map<string, Queue>()
const ORDERS = 8

/** The tag of the order that was read last for this. */
export const tagOf = (path: string) => orders.get(path)?.tag ?? ''

/** The order as it is, of which the answer may say only what has become otherwise; it is remembered. */
export function whole(path: string, said: Queue): Queue {
  const q = since(orders.get(path), said)
  orders.delete(path)
  orders.set(path, q)
  for (const oldest of orders.keys()) if (orders.size > ORDERS) orders.delete(oldest)
  return q
}

/** The queue as it is, of which is said what has become otherwise since the one that was had. */
export const since = (had: Queue | undefined, queue: Queue): Queue =>
  !queue.since || !had
    ? queue
    : {
        ...queue,
        groups: queue.groups.map(({ keep, ...g }) => {
          const ids = had.groups.find((h) => h.key === g.key)?.ids ?? []
          return keep ? { ...g, ids: [...ids.slice(0, keep[0]), ...g.ids, ...ids.slice(ids.length - keep[1])] } : g
        }),
      }
