import 'fake-indexeddb/auto'
import { openDB } from 'idb'
import { afterEach, describe, expect, it } from 'vitest'
import { Kept, type Typed } from './kept'

const typed = (name: string, value: unknown, at = 1): Typed => ({ name, value, what: name, path: '/', at })
const sent = (key: string) => ({ path: '/decisions', body: { kind: key }, key })
let n = 0
let name = ''
const pages: Kept[] = []
/** A page of that person; what it had not heard of from others it has not heard of. */
const page = async (of = name) => {
  const k = await Kept.open(of)
  pages.push(k)
  return k
}
/** When what was written until now stands. */
const stands = async (k: Kept) => void (await k.decided())

describe('what is kept in the browser', () => {
  afterEach(async () => {
    for (const k of pages.splice(0)) await k.clear()
  })
  const fresh = () => (name = 'ebbe-test-' + ++n)

  it('is there for the next page, until it is finished', async () => {
    fresh()
    const before = await page()
    expect(before.lasts).toBe(true)
    before.type(typed('draft/1', 'Dear', 1))
    before.type(typed('draft/1', 'Dear Jonas', 2))
    before.type(typed('plan', { rounds: [9] }, 3))
    before.type(typed('note/2', 'gone', 4))
    before.forget('note/2')
    expect(before.read('draft/1')).toBe('Dear Jonas')
    await stands(before)
    const next = await page()
    expect(next.unfinished().map((t) => [t.name, t.value])).toEqual([
      ['plan', { rounds: [9] }],
      ['draft/1', 'Dear Jonas'],
    ])
    expect(next.read('note/2')).toBeUndefined()
  })

  it('is there as soon as the browser has opened it, however late, and what was done before stays', async () => {
    fresh()
    const before = await page()
    before.type(typed('line', 'idu'))
    before.type(typed('note/1', 'old'))
    before.type(typed('note/2', 'to be finished'))
    before.decide(sent('bin'))
    await stands(before)
    const other = await openDB(name)
    const holds = other.transaction('typed', 'readwrite')
    let held = true
    const on = (): unknown => held && holds.store.get('line').then(on)
    on()
    const late = await Kept.open(name, name, 1)
    pages.push(late)
    expect([late.lasts, late.read('line')]).toEqual([false, undefined])
    late.type(typed('note/1', 'new', 2))
    late.forget('note/2')
    late.decide(sent('star'))
    late.decide(sent('gone'))
    late.answered('gone')
    held = false
    other.close()
    expect((await late.decided()).map((d) => d.key)).toEqual(['bin', 'star'])
    expect([late.lasts, late.read('line'), late.read('note/1')]).toEqual([true, 'idu', 'new'])
    const next = await page()
    expect(next.unfinished().map((t) => [t.name, t.value])).toEqual([
      ['note/1', 'new'],
      ['line', 'idu'],
    ])
  })

  it('is of one person only', async () => {
    fresh()
    const one = await page('ebbe-one-' + n)
    one.type(typed('draft/1', 'Dear'))
    one.decide(sent('bin'))
    await stands(one)
    const other = await page('ebbe-other-' + n)
    expect(other.unfinished()).toEqual([])
    expect(await other.decided()).toEqual([])
  })

  it('keeps decisions in their order, those of an earlier page first', async () => {
    fresh()
    const before = await page()
    for (const key of ['z', 'a', 'm']) before.decide(sent(key))
    before.answered('a')
    await stands(before)
    const next = await page()
    next.decide(sent('b'))
    expect((await next.decided()).map((s) => s.key)).toEqual(['z', 'm', 'b'])
    expect(await next.waits('z')).toBe(true)
    next.answered('z')
    await stands(next)
    expect(await before.waits('a')).toBe(false) // sent by its own page
    expect(await next.waits('z')).toBe(false)
  })

  it('what one window types or finishes another hears', async () => {
    fresh()
    const one = await page()
    const other = await page()
    const heard = (want: unknown) =>
      new Promise<void>((done) => {
        const look = () => (other.read('plan') === want ? done() : setTimeout(look))
        look()
      })
    one.type(typed('plan', 'rounds'))
    await heard('rounds')
    one.forget('plan')
    await heard(undefined)
  })

  it('what was given up can be put back', async () => {
    fresh()
    const k = await page()
    k.type(typed('tray/snooze/7', 'fri 13:30'))
    const back = k.forget('tray/snooze/7')
    expect(k.read('tray/snooze/7')).toBeUndefined()
    back()
    expect(k.read('tray/snooze/7')).toBe('fri 13:30')
    k.forget('nothing')() // what was not there is not put back
    expect(k.unfinished()).toHaveLength(1)
  })

  it('is gone when the person has signed out', async () => {
    fresh()
    const k = await page()
    k.type(typed('draft/1', 'Dear'))
    k.decide(sent('bin'))
    await k.clear()
    const next = await page()
    expect(next.unfinished()).toEqual([])
    expect(await next.decided()).toEqual([])
  })

  it('where the browser keeps nothing, lives as long as the page', async () => {
    fresh()
    const { open } = indexedDB
    indexedDB.open = () => {
      throw new DOMException('no storage', 'SecurityError')
    }
    const k = await page().finally(() => (indexedDB.open = open))
    expect(k.lasts).toBe(false)
    k.type(typed('draft/1', 'Dear'))
    k.decide(sent('bin'))
    expect(k.read('draft/1')).toBe('Dear')
    expect(await k.waits('bin')).toBe(true)
  })
})
