import { describe, expect, it } from 'vitest'
import type { Queue } from './desk'
import { since, tagOf, whole } from './orders'

const queue = (tag: string, ...groups: number[][]): Queue => ({
  groups: groups.map((ids, i) => ({ key: `g${i}`, name: `Group ${i}`, count: ids.length, ids })),
  group: 'none',
  slips: [],
  tag,
  shown: groups.flat().length,
  left: groups.flat().length,
})

describe('a queue of which is said what has changed', () => {
  it('is what was had, with that', () => {
    const had = queue('t', [1, 2, 3, 4], [5])
    const is = queue('t', [9], [6, 7], [8])
    is.since = had.tag
    is.groups[0].keep = [1, 2]
    expect(since(had, is).groups.map((g) => g.ids)).toEqual([[1, 9, 3, 4], [6, 7], [8]])
    expect(since(had, queue('t', [7])).groups[0].ids).toEqual([7])
    expect(had.groups[0].ids).toEqual([1, 2, 3, 4])
  })

  it('is remembered by how it was asked for, a few of them', () => {
    expect(tagOf('/inbox?a')).toBe('')
    whole('/inbox?a', queue('one', [1, 2, 3]))
    expect(tagOf('/inbox?a')).toBe('one')
    const is = queue('two', [9])
    is.since = 'one'
    is.groups[0].keep = [0, 2]
    expect(whole('/inbox?a', is).groups[0].ids).toEqual([9, 2, 3])
    expect(tagOf('/inbox?a')).toBe('two')
    for (let i = 0; i < 8; i++) whole('/inbox?' + i, queue('x', [1]))
    expect(tagOf('/inbox?a')).toBe('')
  })
})
