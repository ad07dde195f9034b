import { beforeEach, describe, expect, it } from 'vitest'
import { EbbeError } from '../api/client'
import type { Decided } from '../api/gen/journal'
import type { Sent } from '../api/kept'
import { Decisions } from './decisions'

const decided = (entry: number): Decided => ({ entry, count: 1, left: 0, text: `step ${entry}`, first: 0, stale: 0 })
const away = () => new EbbeError('Ebbe cannot be reached.', 0, 'unreachable')
const refusal = () => new EbbeError('It is gone.', 409, 'gone')

/** A program that answers as it is told, and notes what reached it. */
class Program {
  reached: Sent[] = []
  counted = new Map<string, number>() // entries by key: what came twice counts once
  answers: (() => void)[] = [] // what it does with the next ones; nothing: it answers
  hold: Promise<void> | undefined

  post = async (path: string, body: unknown, key: string) => {
    this.reached.push({ path, body, key })
    await this.hold
    this.answers.shift()?.()
    if (!this.counted.has(key)) this.counted.set(key, this.counted.size + 1)
    return decided(this.counted.get(key)!)
  }
}

/** What is kept of them, in order, as the browser would. */
class Store {
  list: Sent[] = []
  decide = (sent: Sent) => void (this.list = [...this.list.filter((s) => s.key !== sent.key), sent])
  answered = (key: string) => void (this.list = this.list.filter((s) => s.key !== key))
  waits = (key: string) => Promise.resolve(this.list.some((s) => s.key === key))
}

describe('decisions on their way', () => {
  let program: Program
  let kept: Store
  let waiting: number[]
  let pauses: number[]
  let decisions: Decisions
  let told: string[]
  let keys = 0
  const begin = () =>
    new Decisions({
      post: program.post,
      kept,
      painted: () => Promise.resolve(),
      pause: async (times) => void pauses.push(times),
      newKey: () => `key ${++keys}`,
      waiting: (n) => void waiting.push(n),
    })
  const outcome = (name: string) => ({
    done: (d: Decided) => void told.push(`${name}: ${d.text}`),
    refused: (e: unknown) => void told.push(`${name}: refused, ${(e as Error).message}`),
  })
  const fails = (...errors: Error[]) =>
    (program.answers = errors.map((e) => () => {
      throw e
    }))

  beforeEach(() => {
    program = new Program()
    kept = new Store()
    waiting = []
    pauses = []
    told = []
    keys = 0
    decisions = begin()
  })

  it('go one after the other, in the order in which they were made', async () => {
    let go = () => {}
    program.hold = new Promise((done) => (go = done))
    const all = ['bin', 'archive', 'snooze'].map((kind) => decisions.send('/decisions', { kind }, outcome(kind)))
    expect(kept.list.map((s) => s.body)).toEqual([{ kind: 'bin' }, { kind: 'archive' }, { kind: 'snooze' }]) // from the key pressed
    for (let i = 0; i < 5; i++) await Promise.resolve()
    expect(program.reached.map((s) => s.body)).toEqual([{ kind: 'bin' }])
    expect(decisions.pending).toBe(3)
    go()
    expect((await Promise.all(all)).map((d) => d?.entry)).toEqual([1, 2, 3])
    expect(told).toEqual(['bin: step 1', 'archive: step 2', 'snooze: step 3'])
    expect(decisions.pending).toBe(0)
    expect(kept.list).toEqual([])
    expect(waiting).toEqual([])
  })

  it('wait while the program cannot be reached or one is signed out, and count once', async () => {
    fails(away(), new EbbeError('Sign in.', 401, 'signed-out'), new EbbeError('Out of date.', 403, 'token'))
    program.answers.push(() => {
      // it was taken, and the line was cut before the answer had come
      program.counted.set('key 1', 1)
      throw away()
    })
    const first = decisions.send('/decisions', { kind: 'bin' }, outcome('bin'))
    const second = decisions.send('/decisions', { kind: 'archive' }, outcome('archive'))
    expect(await first).toMatchObject({ entry: 1 })
    expect(await second).toMatchObject({ entry: 2 })
    expect(pauses).toEqual([0, 1, 2, 3])
    expect(program.reached.map((s) => s.key)).toEqual(['key 1', 'key 1', 'key 1', 'key 1', 'key 1', 'key 2'])
    expect(program.counted.size).toBe(2)
    expect(waiting).toEqual([2, 2, 2, 2, 1, 0])
    expect(kept.list).toEqual([])
  })

  it('are sent again by the next page, with their keys, and count once', async () => {
    let cut = () => {}
    program.hold = new Promise((done) => (cut = done))
    void decisions.send('/decisions', { kind: 'bin', conversations: [7] }, outcome('bin'))
    void decisions.send('/decisions', { kind: 'archive', conversations: [8] }, outcome('archive'))
    await Promise.resolve()
    await Promise.resolve()
    const seen = [...kept.list] // the page is gone: what is kept is all that is left of it
    expect(seen.map((s) => s.key)).toEqual(['key 1', 'key 2'])
    program.counted.set('key 1', 1) // one had come through
    const page = program
    program = new Program()
    program.counted = page.counted
    kept = new Store()
    kept.list = seen
    const next = begin()
    next.resume(seen, (s) => outcome('again ' + s.key))
    await next.settled
    expect([...program.counted]).toEqual([
      ['key 1', 1],
      ['key 2', 2],
    ])
    expect(kept.list).toEqual([])
    expect(told).toEqual(['again key 1: step 1', 'again key 2: step 2'])
    cut()
  })

  it('that another page has sent meanwhile are left to it', async () => {
    const sent = { path: '/decisions', body: {}, key: 'of another page' }
    decisions.resume([sent], () => outcome('again'))
    await decisions.settled
    expect(program.reached).toEqual([])
    expect(told).toEqual([])
    expect(decisions.pending).toBe(0)
  })

  it('that are refused stop none of those behind them', async () => {
    fails(refusal())
    const first = decisions.send('/decisions', { kind: 'bin' }, outcome('bin'))
    const second = decisions.send('/decisions', { kind: 'archive' }, outcome('archive'))
    expect(await first).toBeNull()
    expect(await second).toMatchObject({ entry: 1 })
    expect(told).toEqual(['bin: refused, It is gone.', 'archive: step 1'])
    expect(pauses).toEqual([])
    expect(kept.list).toEqual([])
  })

  it('are not asked for again when something else went wrong', async () => {
    fails(new TypeError('no such thing'))
    expect(await decisions.send('/decisions', {}, outcome('bin'))).toBeNull()
    expect(told).toEqual(['bin: refused, no such thing'])
    expect(decisions.pending).toBe(0)
  })

  it('are settled when the last one made until now has been answered', async () => {
    void decisions.send('/decisions', {}, outcome('bin'))
    void decisions.send('/decisions', {}, outcome('archive'))
    await decisions.settled
    expect(told).toEqual(['bin: step 1', 'archive: step 2'])
  })

  it('that were given up, as by signing out, are sent no more', async () => {
    program.answers = Array.from({ length: 3 }, () => () => {
      kept.list = []
      throw away()
    })
    const all = ['bin', 'archive'].map((kind) => decisions.send('/decisions', { kind }, outcome(kind)))
    expect(await Promise.all(all)).toEqual([null, null])
    expect(program.answers).toHaveLength(2) // asked once, before it was given up
    expect(told).toEqual([])
    expect(decisions.pending).toBe(0)
  })
})
