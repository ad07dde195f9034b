import { act, cleanup, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Slip } from './desk'
import { changeSlip, digestsOf, putSlips, staleSlips, useSlip, wantSlips, whole } from './slips'

const slip = (id: number, subject: string) => ({ id, subject }) as Slip
let asked: { ids: string; answer: (slips: Slip[]) => Promise<void> }[] = []
beforeEach(() => {
  asked = []
  vi.useFakeTimers()
  vi.stubGlobal(
    'fetch',
    (path: string) =>
      new Promise<Response>((resolve) => {
        const answer = (slips: Slip[]) =>
          act(async () => {
            resolve(new Response(JSON.stringify(slips)))
            await vi.advanceTimersByTimeAsync(0)
          })
        asked.push({ ids: path.replace('/api/v1/slips?ids=', ''), answer })
      }),
  )
})
afterEach(() => {
  cleanup()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
const turn = () => act(() => vi.runAllTimers())

function show(id: number) {
  let drawn = 0
  const hook = renderHook(() => {
    drawn++
    return useSlip(id)?.subject
  })
  return { says: () => hook.result.current, drawn: () => drawn }
}

test('those that come into view are fetched in one request, and each is told of nothing but itself', async () => {
  const [a, b] = [show(1), show(2)]
  turn()
  expect(asked.map((r) => r.ids)).toEqual(['1,2'])
  await asked[0].answer([slip(1, 'one'), slip(2, 'two')])
  expect([a.says(), b.says()]).toEqual(['one', 'two'])
  const before = b.drawn()
  act(() => changeSlip(1, { subject: 'ONE' }))
  expect(a.says()).toBe('ONE')
  expect(b.drawn()).toBe(before)
})

test('what becomes stale is fetched anew at once if it is shown, and draws nothing by itself', async () => {
  putSlips([slip(3, 'three'), slip(4, 'four')])
  const three = show(3)
  const before = three.drawn()
  act(() => staleSlips([3, 4]))
  turn()
  expect(asked.map((r) => r.ids)).toEqual(['3'])
  expect(three.drawn()).toBe(before)
  await asked[0].answer([slip(3, 'three, changed')])
  expect(three.says()).toBe('three, changed')
})

test('an answer to a question asked before it became stale is asked for again, and others are not', async () => {
  const [five] = [show(5), show(6)]
  turn()
  act(() => staleSlips([5]))
  await asked[0].answer([slip(5, 'before'), slip(6, 'six')])
  turn()
  expect(asked.map((r) => r.ids)).toEqual(['5,6', '5'])
  await asked[1].answer([slip(5, 'after')])
  turn()
  expect(five.says()).toBe('after')
  expect(asked).toHaveLength(2)
})

test('a digest stands for what is in it, is asked for by nobody, and is emptied with the last of it', async () => {
  putSlips([{ id: -1, of: [5, 6] } as Slip])
  expect(whole([-1, 9])).toEqual([5, 6, 9])
  expect(digestsOf([5, 9])).toEqual([{ id: -1, of: [5, 6], rest: [6] }])
  expect(digestsOf([6, 5])[0].rest).toEqual([])
  expect(digestsOf([9])).toEqual([])
  staleSlips()
  wantSlips([-1])
  await turn()
  expect(asked).toEqual([])
})
