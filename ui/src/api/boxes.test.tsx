import { QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, renderHook } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { client, useBoxes } from './queries'

afterEach(() => {
  cleanup()
  client.clear()
  vi.unstubAllGlobals()
})

test('whoever is no member stays none while it is asked anew, and a failure says nothing of it', async () => {
  const answers: ((r: Response) => void)[] = []
  vi.stubGlobal('fetch', () => new Promise<Response>((resolve) => answers.push(resolve)))
  const answer = (status: number, body: unknown) =>
    act(async () => {
      answers.shift()!(new Response(JSON.stringify(body), { status }))
      await new Promise((r) => setTimeout(r))
    })
  const hook = renderHook(() => useBoxes().data, {
    wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  })
  await answer(404, { title: 'There is no such box' })
  expect(hook.result.current).toEqual([])
  act(() => void client.invalidateQueries({ queryKey: ['boxes'] }))
  expect(answers).toHaveLength(1)
  expect(hook.result.current).toEqual([])
  await answer(500, { title: 'No' })
  expect(hook.result.current).toEqual([])
  act(() => void client.invalidateQueries({ queryKey: ['boxes'] }))
  await answer(200, [{ id: 3, name: 'Loans', here: true }])
  expect(hook.result.current).toHaveLength(1)
})
