import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { post } from './client'
import { client } from './queries'
import { askForSession } from './session'

const session = (keep: string, state = 'in') => ({ state, keep, csrf: 'token of ' + keep })
const answer = (status: number, body: unknown) => new Response(JSON.stringify(body), { status })
const turnedAway = { type: 'urn:ebbe:problem:signed-out', detail: 'You are not signed in here any more.' }

describe('a session that has ended', () => {
  let reloads = 0
  let sent: string[]
  let now: ReturnType<typeof session>
  let known = false // whether the program takes the requests of this page
  beforeEach(() => {
    reloads = 0
    sent = []
    known = false
    client.setQueryData(['session'], session('1-a'))
    vi.stubGlobal('location', { reload: () => void reloads++ })
    vi.stubGlobal('fetch', (path: string, init?: RequestInit) => {
      if (path.endsWith('/session')) return Promise.resolve(answer(200, now))
      sent.push((init?.headers as Record<string, string>)['X-Ebbe-Token'])
      return Promise.resolve(known ? answer(200, {}) : answer(401, turnedAway))
    })
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    client.clear()
  })

  it('that there is again, of the same person, goes on with what was asked', async () => {
    now = { ...session('1-a'), csrf: 'a new token' }
    const asked = post('/decisions', {})
    known = true
    await expect(asked).resolves.toEqual({})
    expect(sent.at(-1)).toBe('a new token')
    expect(reloads).toBe(0)
  })

  it('that there is not says so, and the page stays', async () => {
    now = session('', 'out')
    await expect(post('/decisions', {})).rejects.toMatchObject({ type: 'signed-out' })
    expect(await askForSession()).toBe(false)
    expect(client.getQueryData(['session'])).toMatchObject({ keep: '1-a' })
    now = session('1-a')
    expect(await askForSession()).toBe(true)
  })

  it('of somebody else has nothing of this page sent for them: it is loaded anew', async () => {
    now = session('2-a')
    let over = false
    void post('/decisions', {})
      .catch(() => {}) // as the test ends
      .finally(() => (over = true))
    await new Promise((done) => setTimeout(done, 20))
    expect(reloads).toBe(1)
    expect(over).toBe(false)
    expect(sent).toHaveLength(1) // never with their token
    expect(client.getQueryData(['session'])).toMatchObject({ keep: '1-a' })
  })
})
