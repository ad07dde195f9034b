import { act, renderHook } from '@testing-library/react'
import { beforeEach, expect, test, vi } from 'vitest'
import { patch } from '../api/client'
import type { Settings } from '../api/desk'
import { client } from '../api/queries'
import { useChoice } from './choosing'

const say = vi.hoisted(() => vi.fn())
vi.mock('./desk', () => ({ useDesk: () => ({ say }) }))
vi.mock('../api/client', async (real) => ({ ...(await real<object>()), patch: vi.fn() }))

const chosen = () => client.getQueryData<Settings>(['settings'])!
const sent = vi.mocked(patch)
const choose = () => renderHook(() => useChoice()).result.current

beforeEach(() => {
  say.mockClear()
  sent.mockReset()
  client.setQueryData(['settings'], {
    theme: 'light',
    addresses: [],
    fixed: [],
    week: { zone: 'Europe/Oslo', workdays: [1, 2] },
    habits: { span: 15, keys: { star: 'x' } },
    followUp: { keep: false },
  })
})

test('a choice is seen at once, and said when it is done', async () => {
  let done: (answer: unknown) => void = () => {}
  sent.mockReturnValue(new Promise((resolve) => (done = resolve)))
  const one = choose()({ theme: 'dark', habits: { keys: { star: null, bin: 'q' } } })
  expect(chosen().theme).toBe('dark')
  expect(chosen().habits).toEqual({ span: 15, keys: { bin: 'q' } })
  await act(async () => {
    await Promise.resolve()
    done({ entry: 7, text: 'Theme: dark.' })
    expect(await one).toBe(true)
  })
  expect(say).toHaveBeenCalledWith({ text: 'Theme: dark.', undo: true })
})

test('what is refused is shown as it is, and why is said', async () => {
  sent.mockRejectedValue(new Error('away'))
  expect(await choose()({ theme: 'dark' })).toBe(false)
  expect(chosen().theme).toBe('light')
  expect(say).toHaveBeenCalledWith({ text: 'Something went wrong. Nothing was changed.', wrong: true })
})

test('one goes after the other', async () => {
  const order: string[] = []
  sent.mockImplementation((_, body) => {
    order.push(JSON.stringify(body))
    return Promise.resolve({ entry: 0, text: '' })
  })
  const c = choose()
  await Promise.all([c({ week: { workdays: [1] } }), c({ week: { workdays: [] } }), c({ theme: '' })])
  expect(order).toEqual(['{"week":{"workdays":[1]}}', '{"week":{"workdays":[]}}', '{"theme":""}'])
  expect(say).not.toHaveBeenCalled()
})
