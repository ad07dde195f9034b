import { describe, expect, it } from 'vitest'
import { leftAt, MOST_OPEN, read, stepFrom, withOne } from './openings'

const three = [1, 2, 3].map((id) => ({ id, path: '/c/' + id }))

describe('what is kept open', () => {
  it('is read as it was kept', () => {
    const all = leftAt(three, 2, '/c/2?tray=reply')
    expect(read(JSON.stringify(all))).toEqual(all)
  })
  it.each([
    [null, []],
    ['', []],
    ['nonsense', []],
    ['{"id":1}', []],
    ['[null, 3, {"id":"x"}, {"id":-1}, {"id":1.5}]', []],
    ['[{"id":1},{"id":1,"path":"/c/1?tray=reply"}]', [{ id: 1, path: '/c/1' }]],
    ['[{"id":1,"path":"//elsewhere.example/c/1"},{"id":2,"path":"/c/1"}]', three.slice(0, 2)],
  ])('is nothing where %s cannot be read', (text, want) => {
    expect(read(text)).toEqual(want)
  })
  it('has a conversation once, and room for so many', () => {
    expect(withOne(three, 2, '/c/2?file=1')).toBe(three)
    let all = three
    for (let id = 4; id < 100; id++) all = withOne(all, id)
    expect(all).toHaveLength(MOST_OPEN)
    expect(read(JSON.stringify([...all, { id: 99, path: '/c/99' }]))).toHaveLength(MOST_OPEN)
  })
  it('goes round by keys, through the queue', () => {
    expect([0, 1, 3, 77].map((id) => stepFrom(three, id, 1))).toEqual([1, 2, 0, 1])
    expect([0, 1, 3].map((id) => stepFrom(three, id, -1))).toEqual([3, 0, 2])
    expect(stepFrom([], 5, 1)).toBe(0)
  })
})
