import type { Queue } from './desk'

/** The queue without the conversations that do not stay; the same object if all do. */
export const without = (queue: Queue, stay: (id: number) => boolean) => remaining(queue, (ids) => ids.filter(stay))

/**
 * The queue without these, of which each stands in it once at most; the same object if none does. A few of a hundred
 * thousand are looked for from the top, and what is around them is copied as it is.
 */
export function less(queue: Queue, gone: number[]): Queue {
  if (gone.length > FEW) {
    const all = new Set(gone)
    return without(queue, (id) => !all.has(id))
  }
  let left = gone
  return remaining(queue, (ids) => {
    let out = ids
    for (const id of left) {
      const i = out.indexOf(id)
      if (i < 0) continue
      if (out === ids) out = ids.slice()
      out.splice(i, 1)
      left = left.filter((x) => x !== id)
    }
    return out
  })
}
const FEW = 8

/** The queue with what remains of each group; the same object if all does. */
function remaining(queue: Queue, of: (ids: number[]) => number[]): Queue {
  let n = 0
  const groups = queue.groups.map((g) => {
    const ids = of(g.ids)
    n += g.ids.length - ids.length
    return ids.length === g.ids.length ? g : { ...g, ids, count: ids.length }
  })
  if (!n) return queue
  return { ...queue, groups: groups.filter((g) => g.count), shown: queue.shown - n, left: Math.max(0, queue.left - n) }
}

/** A list with these of another one in it again, each behind what stood before it there. */
export function inOrder(list: number[], before: number[], ids: number[]): number[] {
  const back = new Set(ids)
  const out = [...list]
  let at = 0
  for (const id of before) {
    const i = out.indexOf(id)
    if (i >= 0) at = i + 1
    else if (back.has(id)) out.splice(at++, 0, id)
  }
  return out
}

/** The queue with these conversations where they were in it before; the same object if all are there. */
export function putBack(queue: Queue, before: Queue, ids: number[]): Queue {
  const there = new Set(queue.groups.flatMap((g) => g.ids))
  const missing = ids.filter((id) => !there.has(id))
  let n = 0
  let groups = queue.groups
  before.groups.forEach((was) => {
    const back = was.ids.filter((id) => missing.includes(id))
    if (!back.length) return
    n += back.length
    const now = groups.find((g) => g.key === was.key) ?? { ...was, ids: [], count: 0 }
    const whole = { ...now, ids: inOrder(now.ids, was.ids, back), count: now.count + back.length }
    const order = before.groups.map((g) => g.key)
    groups = [...groups.filter((g) => g.key !== was.key), whole].sort(
      (a, b) => place(order, a.key) - place(order, b.key),
    )
  })
  return n ? { ...queue, groups, shown: queue.shown + n, left: queue.left + n } : queue
}
const place = (order: string[], key: string) => (order.includes(key) ? order.indexOf(key) : order.length)

/**
 * The conversations that have been decided and leave a list, until the program has answered. A list that was asked
 * for before that answer may still hold them, and must not bring them back into view.
 */
export class Going {
  private left = new Map<number, number>() // until when an answer may still hold it; Infinity before the program has answered

  private changes = 0

  constructor(private now: () => number = () => performance.now()) {}

  leave(ids: number[]) {
    this.changes++
    for (const id of ids) this.left.set(id, Infinity)
  }

  /** The program has taken the decision: lists asked for from now on are right. */
  answered(ids: number[]) {
    this.changes++
    for (const id of ids) if (this.left.has(id)) this.left.set(id, this.now())
  }

  /** The program has refused it: they are there as before. */
  refused(ids: number[]) {
    this.changes++
    for (const id of ids) this.left.delete(id)
  }

  /** When a number is asked for: says, once it has come, whether nothing was decided or answered meanwhile, or is waited for. */
  counting(): () => boolean {
    const asked = this.changes
    return () => asked === this.changes && ![...this.left.values()].includes(Infinity)
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
