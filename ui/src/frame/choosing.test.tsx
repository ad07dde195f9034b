import { act, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Settings } from '../api/desk'
import { client } from '../api/queries'
import { useChoice } from './choosing'

const say = vi.hoisted(() => vi.fn())
vi.mock('./desk', () => ({ useDesk: () => ({ say }) }))

const chosen = () => client.getQueryData<Settings>(['settings'])!
const sent = vi.fn<(path: string, request: { method: string; body: string }) => Promise<Response>>()
const answered = (answer: unknown) => new Response(JSON.stringify(answer))
const choose = () => renderHook(() => useChoice()).result.current

beforeEach(() => {
  say.mockClear()
  sent.mockReset()
  vi.stubGlobal('fetch', sent)
  client.setQueryData(['settings'], {
    theme: 'light',
    addresses: [],
    fixed: [],
    week: { zone: 'Europe/Oslo', workdays: [1, 2] },
    habits: { span: 15, keys: { star: 'x' } },
    followUp: { keep: false },
  })
})

afterEach(() => vi.unstubAllGlobals())

test('a choice is seen at once, and said when it is done', async () => {
  let done: (answer: Response) => void = () => {}
  sent.mockReturnValue(new Promise((resolve) => (done = resolve)))
  const one = choose()({ theme: 'dark', habits: { keys: { star: null, bin: 'q' } } })
  expect(chosen().theme).toBe('dark')
  expect(chosen().habits).toEqual({ span: 15, keys: { bin: 'q' } })
  await act(async () => {
    await Promise.resolve()
    done(answered({ entry: 7, text: 'Theme: dark.' }))
    expect(await one).toBe(true)
  })
  expect(say).toHaveBeenCalledWith({ text: 'Theme: dark.', undo: true })
})

test('what is refused is shown as it is, and why is said', async () => {
  sent.mockRejectedValue(new TypeError('away'))
  expect(await choose()({ theme: 'dark' })).toBe(false)
  expect(chosen().theme).toBe('light')
  expect(say).toHaveBeenCalledWith({
    text: expect.stringContaining('cannot be reached. Nothing was changed') as string,
    wrong: true,
  })
})

test('one goes after the other', async () => {
  const order: string[] = []
  sent.mockImplementation((_, { method, body }) => {
    if (method === 'PATCH') order.push(body)
    return Promise.resolve(answered({ entry: 0, text: '' }))
  })
  const c = choose()
  await Promise.all([c({ week: { workdays: [1] } }), c({ week: { workdays: [] } }), c({ theme: '' })])
  expect(order).toEqual(['{"week":{"workdays":[1]}}', '{"week":{"workdays":[]}}', '{"theme":""}'])
  expect(say).not.toHaveBeenCalled()
})
