import { beforeEach, describe, expect, it } from 'vitest'
import { EbbeError } from '../api/client'
import type { Decided } from '../api/gen/journal'
import { Decisions, type Sent } from './decisions'

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

describe('decisions on their way', () => {
  let program: Program
  let kept: Sent[]
  let waiting: number[]
  let pauses: number
  let decisions: Decisions
  let told: string[]
  const begin = () => {
    let n = 0
    return new Decisions({
      post: program.post,
      keep: (list) => void (kept = [...list]),
      pause: async () => void pauses++,
      newKey: () => `key ${++n}`,
      waiting: (n) => void waiting.push(n),
    })
  }
  const outcome = (name: string) => ({
    done: (d: Decided) => void told.push(`${name}: ${d.text}`),
    refused: (e: unknown) => void told.push(`${name}: refused, ${(e as Error).message}`),
  })

  beforeEach(() => {
    program = new Program()
    kept = []
    waiting = []
    pauses = 0
    told = []
    decisions = begin()
  })

  it('go one after the other, in the order in which they were made', async () => {
    let go = () => {}
    program.hold = new Promise((done) => (go = done))
    const all = ['bin', 'archive', 'snooze'].map((kind) => decisions.send('/decisions', { kind }, outcome(kind)))
    await Promise.resolve()
    expect(program.reached.map((s) => s.body)).toEqual([{ kind: 'bin' }])
    expect(decisions.pending).toBe(3)
    go()
    expect((await Promise.all(all)).map((d) => d?.entry)).toEqual([1, 2, 3])
    expect(told).toEqual(['bin: step 1', 'archive: step 2', 'snooze: step 3'])
    expect(decisions.pending).toBe(0)
  })

  it('wait and are kept while the program cannot be reached, and count once', async () => {
    let dropped = false
    program.answers = [
      () => {
        throw away()
      },
      () => {
        // it was taken, and the line was cut before the answer had come
        program.counted.set('key 1', 1)
        dropped = true
        throw away()
      },
    ]
    const first = decisions.send('/decisions', { kind: 'bin' }, outcome('bin'))
    const second = decisions.send('/decisions', { kind: 'archive' }, outcome('archive'))
    expect(await first).toMatchObject({ entry: 1 })
    expect(await second).toMatchObject({ entry: 2 })
    expect(dropped).toBe(true)
    expect(pauses).toBe(2)
    expect(program.reached.map((s) => s.key)).toEqual(['key 1', 'key 1', 'key 1', 'key 2'])
    expect(program.counted.size).toBe(2)
    expect(waiting).toEqual([2, 2, 1, 0])
    expect(kept).toEqual([])
  })

  it('keep what waits, with its key, for the page that comes next', async () => {
    program.answers = [
      () => {
        throw away()
      },
    ]
    let seen: Sent[] = []
    const page = new Decisions({
      post: program.post,
      keep: (list) => void (kept = [...list]),
      pause: () => {
        seen = [...kept]
        return Promise.resolve()
      },
      newKey: () => 'mine',
      waiting: () => {},
    })
    await page.send('/decisions', { kind: 'bin', conversations: [7] }, outcome('bin'))
    expect(seen).toEqual([{ path: '/decisions', body: { kind: 'bin', conversations: [7] }, key: 'mine' }])

    // the next page sends it again: it has counted already, and nothing is kept any more
    kept = seen
    const next = begin()
    next.resume(seen, () => outcome('again'))
    expect(kept).toEqual(seen)
    await next.settled
    expect(program.counted.size).toBe(1)
    expect(kept).toEqual([])
    expect(told).toEqual(['bin: step 1', 'again: step 1'])
  })

  it('that are refused stop none of those behind them', async () => {
    program.answers = [
      () => {
        throw refusal()
      },
    ]
    const first = decisions.send('/decisions', { kind: 'bin' }, outcome('bin'))
    const second = decisions.send('/decisions', { kind: 'archive' }, outcome('archive'))
    expect(await first).toBeNull()
    expect(await second).toMatchObject({ entry: 1 })
    expect(told).toEqual(['bin: refused, It is gone.', 'archive: step 1'])
    expect(pauses).toBe(0)
  })

  it('are not asked for again when something else went wrong', async () => {
    program.answers = [
      () => {
        throw new TypeError('no such thing')
      },
    ]
    expect(await decisions.send('/decisions', {}, outcome('bin'))).toBeNull()
    expect(told).toEqual(['bin: refused, no such thing'])
    expect(decisions.pending).toBe(0)
  })

  it('know their own echo, once', async () => {
    await decisions.send('/decisions', {}, outcome('bin'))
    expect(decisions.wasOwn('key 1')).toBe(true)
    expect(decisions.wasOwn('key 1')).toBe(false)
    expect(decisions.wasOwn('of another tab')).toBe(false)
  })

  it('are settled when the last one made until now has been answered', async () => {
    void decisions.send('/decisions', {}, outcome('bin'))
    void decisions.send('/decisions', {}, outcome('archive'))
    await decisions.settled
    expect(told).toEqual(['bin: step 1', 'archive: step 2'])
  })
})
