import type { Queue } from './desk'

/** The queue without the conversations that do not stay; the same object if all do. */
export function without(queue: Queue, stay: (id: number) => boolean): Queue {
  let n = 0
  const groups = queue.groups.map((g) => {
    const ids = g.ids.filter(stay)
    n += g.ids.length - ids.length
    return ids.length === g.ids.length ? g : { ...g, ids, count: ids.length }
  })
  if (!n) return queue
  return { ...queue, groups: groups.filter((g) => g.count), shown: queue.shown - n, left: Math.max(0, queue.left - n) }
}

/**
 * The conversations that have been decided and leave a list, until the program has answered. A list that was asked
 * for before that answer may still hold them, and must not bring them back into view.
 */
export class Going {
  private left = new Map<number, number>() // until when an answer may still hold it; Infinity before the program has answered

  constructor(private now: () => number = () => performance.now()) {}

  leave(ids: number[]) {
    for (const id of ids) this.left.set(id, Infinity)
  }

  /** The program has taken the decision: lists asked for from now on are right. */
  answered(ids: number[]) {
    for (const id of ids) if (this.left.has(id)) this.left.set(id, this.now())
  }

  /** The program has refused it: they are there as before. */
  refused(ids: number[]) {
    for (const id of ids) this.left.delete(id)
  }

  /** When a list is asked for: says, once it has come, which of its conversations stay. */
  asking(): (id: number) => boolean {
    const asked = this.now()
    return (id) => {
      const until = this.left.get(id)
      if (until === undefined) return true
      if (until > asked) return false
      this.left.delete(id)
      return true
    }
  }
}
