import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { GiveTray } from './owner'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

test('what is typed while the members are on their way is the reason, and nobody is given anything until they are there', async () => {
  let answer: (r: Response) => void = () => {}
  vi.stubGlobal('fetch', () => new Promise<Response>((resolve) => (answer = resolve)))
  render(
    <QueryClientProvider client={new QueryClient()}>
      <GiveTray onGive={() => {}} onClose={() => {}} />
    </QueryClientProvider>,
  )
  expect(document.activeElement?.id).toBe('give-why')
  expect((screen.getByText('Give') as HTMLButtonElement).disabled).toBe(true)
  answer(new Response(JSON.stringify({ members: [{ id: 2, name: 'Jonas', here: false }] })))
  await waitFor(() => expect((screen.getByText('Give') as HTMLButtonElement).disabled).toBe(false))
  expect(document.activeElement?.id).toBe('give-why')
  expect(screen.getByText('Jonas')).toBeTruthy()
})
