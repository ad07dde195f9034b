import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, renderHook, waitFor } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { useFound } from './asking'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

test('a letter that is typed on breaks off the search for those before, and the search that was broken off says nothing', async () => {
  const asked: { path: string; signal: AbortSignal; answer: (text: string) => void }[] = []
  vi.stubGlobal(
    'fetch',
    (path: string, init: { signal: AbortSignal }) =>
      new Promise<Response>((resolve, reject) => {
        init.signal.addEventListener('abort', () => reject(new DOMException('broken off', 'AbortError')))
        asked.push({ path, signal: init.signal, answer: (text) => resolve(new Response(text)) })
      }),
  )
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const found = renderHook((letters: string) => useFound(letters, false), {
    initialProps: 'cra',
    wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  })
  await waitFor(() => expect(asked).toHaveLength(1))
  found.rerender('crat')
  await waitFor(() => expect(asked).toHaveLength(2))
  expect(asked.map((a) => a.signal.aborted)).toEqual([true, false])
  asked[1].answer('{"slips":[],"count":3}')
  await waitFor(() => expect(found.result.current.data?.count).toBe(3))
  expect(found.result.current.error).toBeNull()
  expect(asked.map((a) => a.path)).toEqual(['/api/v1/found?asked=cra', '/api/v1/found?asked=crat'])
})
