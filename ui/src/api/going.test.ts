import { describe, expect, it } from 'vitest'
import type { Queue } from './desk'
import { Going, less, without } from './going'

const queue = (...groups: number[][]): Queue => ({
  groups: groups.map((ids, i) => ({ key: `g${i}`, name: `Group ${i}`, count: ids.length, ids })),
  group: 'none',
  slips: [],
  tag: 't',
  shown: groups.flat().length,
  left: groups.flat().length + 2, // two more are not shown
})

describe('a queue without some', () => {
  it('is the same when all stay', () => {
    const q = queue([1, 2], [3])
    expect(without(q, () => true)).toBe(q)
  })

  it('loses the group whose last conversation goes, and counts', () => {
    const q = without(queue([1, 2], [3], [4, 5]), (id) => id !== 3 && id !== 4)
    expect(q.groups.map((g) => [g.key, g.ids, g.count])).toEqual([
      ['g0', [1, 2], 2],
      ['g2', [5], 1],
    ])
    expect([q.shown, q.left]).toEqual([3, 5])
  })

  it('leaves the queue that was given as it was', () => {
    const q = queue([1, 2])
    without(q, () => false)
    expect(q.groups[0].ids).toEqual([1, 2])
    expect(q.left).toBe(4)
  })

  it('loses a few as it would lose each by itself', () => {
    const all = queue([1, 2, 3], [4], [5, 6, 7, 8, 9, 10, 11, 12, 13])
    for (const gone of [[], [1], [4], [3, 4, 13], [99], [2, 99, 12], [13, 12, 11, 10, 9, 8, 7, 6, 5]]) {
      expect(less(all, gone)).toEqual(without(all, (id) => !gone.includes(id)))
      expect(less(all, gone) === all).toBe(!gone.some((id) => id <= 13))
    }
    expect(all.groups[2].ids).toHaveLength(9)
  })

  it('never counts below nothing', () => {
    expect(without({ ...queue([1, 2, 3]), left: 1 }, () => false).left).toBe(0)
  })
})

describe('what is going', () => {
  it('stays out of every list asked for before the program has answered', () => {
    let at = 0
    const going = new Going(() => at)
    const before = going.asking()
    at = 1
    going.leave([7])
    const between = going.asking()
    at = 2
    going.answered([7])
    at = 3
    const after = going.asking()
    expect(before(7)).toBe(false)
    expect(between(7)).toBe(false)
    expect(before(8)).toBe(true)
    expect(after(7)).toBe(true) // if it is there now, it has come back
  })

  it('is there again once it was refused', () => {
    const going = new Going(() => 0)
    const stays = going.asking()
    going.leave([7, 8])
    going.refused([7])
    expect([stays(7), stays(8)]).toEqual([true, false])
  })

  it('says when a number that was asked for may be of before a decision', () => {
    const going = new Going()
    expect(going.counting()(), 'nothing was decided').toBe(true)
    const before = going.counting()
    going.leave([1])
    expect(before(), 'decided meanwhile').toBe(false)
    const during = going.counting()
    expect(during(), 'not answered yet').toBe(false)
    going.answered([1])
    expect(during(), 'answered meanwhile').toBe(false)
    expect(going.counting()(), 'asked for afterwards').toBe(true)
    going.leave([2])
    going.refused([2])
    expect(going.counting()()).toBe(true)
  })
  it('knows nothing of what was never decided', () => {
    const going = new Going(() => 0)
    going.answered([7])
    expect(going.asking()(7)).toBe(true)
  })

  // Any order of deciding, answering and asking, against a plain reading of the rule: a list may show a
  // conversation if nothing is decided about it, or if its last decision was answered before the list was asked for.
  it('follows its rule in any order of steps', () => {
    let seed = 1
    const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n
    for (let round = 0; round < 300; round++) {
      let at = 0
      const going = new Going(() => at)
      const until = new Map<number, number>()
      const lists: { asked: number; stays: (id: number) => boolean }[] = []
      for (let step = 0; step < 30; step++) {
        at++
        const id = random(4)
        const what = random(5)
        if (what === 0) {
          going.leave([id])
          until.set(id, Infinity)
        } else if (what === 1) {
          going.answered([id])
          if (until.has(id)) until.set(id, at)
        } else if (what === 2) {
          going.refused([id])
          until.delete(id)
        } else if (what === 3) lists.push({ asked: at, stays: going.asking() })
        else if (lists.length) {
          // lists come in the order in which they were asked for, or not at all
          const list = lists.splice(0, 1 + random(lists.length)).at(-1)!
          const shows = (until.get(id) ?? -1) <= list.asked
          expect(list.stays(id), `round ${round}, step ${step}`).toBe(shows)
          if (shows) until.delete(id)
        }
      }
    }
  })
})
