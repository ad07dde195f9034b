import { beforeEach, describe, expect, it } from 'vitest'
import { EbbeError } from '../../api/client'
import type { DraftChange, DraftView } from '../../api/desk'
import { type Around, Keeping, type Unsaved } from './keeping'

const blank: DraftView = {
  id: 1,
  conversation: 7,
  mode: 'reply',
  message: 3,
  account: 1,
  to: [{ address: 'jonas@port.example' }],
  cc: [],
  bcc: [],
  subject: 'Re: Crate',
  text: '',
  rich: false,
  bare: false,
  receipt: false,
  named: false,
  version: 4,
  writer: '',
  turn: 0,
  files: [],
  below: '',
  trail: [],
  signature: '',
  begun: 0,
  changed: 0,
}
const away = () => new EbbeError('Ebbe cannot be reached.', 0, 'unreachable')

/** The program, the browser's storage and the clock of a draft, each moved by the test. */
class World implements Around {
  puts: { id: number; change: DraftChange }[] = []
  answers: (() => DraftView)[] = [] // instead of taking it
  kept = new Map<number, Unsaved>()
  version = 4
  pauses: number[] = []
  private rests: (() => void)[] = []
  begun: DraftView[] = []

  put = async (id: number, change: DraftChange) => {
    this.puts.push({ id, change })
    await Promise.resolve()
    const other = this.answers.shift()
    if (other) return other()
    return { ...blank, ...change, id, version: ++this.version, changed: 100 + this.version }
  }
  begin = (d: DraftView) => {
    this.begun.push(d)
    return Promise.resolve({ ...blank, id: 2, version: 1 })
  }
  keep = (id: number, u: Unsaved | null) => {
    if (u) this.kept.set(id, u)
    else this.kept.delete(id)
  }
  pause = async (times: number) => {
    this.pauses.push(times)
    await Promise.resolve()
  }
  rest = () => new Promise<void>((done) => this.rests.push(done))
  newKey = () => 'window'

  /** The 400 ms pass, and all that follows from that. */
  async passes() {
    for (const done of this.rests.splice(0)) done()
    for (let i = 0; i < 30; i++) await Promise.resolve()
  }
}

describe('a draft that is written', () => {
  let world: World
  let k: Keeping
  const type = (...texts: string[]) => {
    for (const text of texts) k.change({ text })
  }
  const texts = () => world.puts.map((p) => p.change.text)

  beforeEach(() => {
    world = new World()
    k = new Keeping(blank, world)
  })

  it('is kept with each key, and saved once for all that was typed in 400 ms', async () => {
    type('D', 'De', 'Dea', 'Dear')
    expect(world.kept.get(1)?.draft.text).toBe('Dear')
    expect(world.puts).toEqual([])
    await world.passes()
    expect(texts()).toEqual(['Dear'])
    expect(world.puts[0]).toMatchObject({ id: 1, change: { version: 4, writer: 'window', turn: 1 } })
    expect(world.kept.size).toBe(0)
    expect(k.standing).toMatchObject({ savedAt: 105, trouble: '', away: false })
    type('Dear J')
    await world.passes()
    expect(world.puts[1].change).toMatchObject({ text: 'Dear J', version: 5, turn: 2 })
  })

  it('is saved at once when it is closed or sent', async () => {
    type('Dear')
    expect(await k.flush()).toBe(true)
    expect(texts()).toEqual(['Dear'])
    expect(await k.flush()).toBe(true)
    expect(world.puts).toHaveLength(1)
  })

  it('what is typed while it is being saved is saved, too', async () => {
    world.answers = [
      () => {
        type('Dear Jonas')
        return { ...blank, text: 'Dear', version: 5 }
      },
    ]
    type('Dear')
    expect(await k.flush()).toBe(true)
    expect(texts()).toEqual(['Dear', 'Dear Jonas'])
    expect(k.standing.draft.text).toBe('Dear Jonas')
  })

  it('waits for a program that is away, says so, and goes by itself', async () => {
    let back = false
    world.answers = Array.from({ length: 3 }, () => () => {
      throw away()
    })
    world.pause = async (times) => {
      world.pauses.push(times)
      if (world.pauses.length === 3) await new Promise<void>((done) => setTimeout(() => ((back = true), done())))
    }
    type('Dear')
    expect(await k.flush()).toBe(false)
    expect(k.standing).toMatchObject({ away: true, trouble: 'Ebbe cannot be reached.' })
    expect(world.kept.get(1)?.draft.text).toBe('Dear')
    while (k.dirty) {
      await world.passes()
      await new Promise((done) => setTimeout(done))
    }
    expect(back).toBe(true)
    expect(world.pauses).toEqual([0, 1, 2])
    expect(k.standing).toMatchObject({ away: false, trouble: '' })
    expect(world.kept.size).toBe(0)
  })

  it('that is refused stays as it is, and is not asked for again until something changes', async () => {
    world.answers = [
      () => {
        throw new EbbeError('That draft is too long.', 422, 'invalid', 'text')
      },
    ]
    type('Dear'.repeat(9))
    expect(await k.flush()).toBe(false)
    expect(k.standing).toMatchObject({ away: false, trouble: 'That draft is too long.' })
    await world.passes()
    expect(world.puts).toHaveLength(1)
    expect(world.kept.get(1)?.draft.text).toBe('Dear'.repeat(9))
    type('Dear')
    await world.passes()
    expect(texts()).toEqual(['Dear'.repeat(9), 'Dear'])
    expect(k.standing.trouble).toBe('')
  })

  it('that another window has changed goes on apart, under its own number', async () => {
    world.answers = [() => ({ ...blank, id: 9, text: 'Mine', version: 1, apart: 1 })]
    type('Mine')
    await world.passes()
    expect(k.standing).toMatchObject({ apart: 1, draft: { id: 9, text: 'Mine' } })
    expect(world.kept.size).toBe(0)
    type('Mine, too')
    expect(world.kept.has(9)).toBe(true)
    await world.passes()
    expect(world.puts[1]).toMatchObject({ id: 9, change: { version: 1, turn: 2 } })
  })

  it('that was sent or deleted elsewhere goes on as a new one', async () => {
    world.answers = [
      () => {
        throw new EbbeError('That is no longer here.', 404, 'not-found')
      },
    ]
    type('And one thing more')
    await world.passes()
    await world.passes()
    expect(world.begun[0].text).toBe('And one thing more')
    expect(world.puts.map((p) => p.id)).toEqual([1, 2])
    expect(k.standing).toMatchObject({ anew: true, draft: { id: 2, text: 'And one thing more' } })
    expect(world.kept.size).toBe(0)
  })

  it('takes what another window has written, but keeps what was typed here', async () => {
    k.take({ ...blank, text: 'Theirs', version: 6 })
    expect(k.standing.draft.text).toBe('Theirs')
    expect(k.dirty).toBe(false)
    type('Theirs and mine')
    k.take({ ...blank, text: 'Theirs, later', subject: 'Re: Crate 7', version: 8 })
    expect(k.standing.draft).toMatchObject({ text: 'Theirs and mine' })
    expect(k.dirty).toBe(true)
    await world.passes()
    expect(texts()).toEqual(['Theirs and mine'])
  })

  it('that an earlier page could not save is saved by this one, as of the same window', async () => {
    type('Dear Jonas')
    const unsaved = world.kept.get(1)!
    const next = new World()
    const again = new Keeping(unsaved.draft, next, unsaved)
    expect(again.standing.draft.text).toBe('Dear Jonas')
    expect(again.dirty).toBe(true)
    const told: boolean[] = []
    again.subscribe(() => told.push(again.dirty))
    await next.passes()
    expect(next.puts[0].change).toMatchObject({ text: 'Dear Jonas', version: 4, writer: 'window', turn: 1 })
    expect(again.dirty).toBe(false)
    expect(told.at(-1)).toBe(false) // whoever listens hears that it is saved
  })

  it('that was sent is kept and saved no more', async () => {
    type('Dear')
    k.forget()
    expect(world.kept.size).toBe(0)
    await world.passes()
    expect(world.puts).toEqual([])
  })
})
