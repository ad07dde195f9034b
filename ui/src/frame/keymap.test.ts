import { describe, expect, it } from 'vitest'
import { also } from './also'
import { clash, keyName, keysOf, known, refused } from './keymap'

describe('the keymap', () => {
  it('has each command once, with a name and other words for it', () => {
    expect(new Set(known.map((k) => k.id)).size).toBe(known.length)
    for (const k of known) expect(k.name, k.id).toMatch(/^[A-Z]/)
    for (const id of Object.keys(also)) expect(known.map((k) => k.id)).toContain(id)
  })

  it('gives no key to two commands that could both be meant', () => {
    for (const k of known.filter((k) => !k.fixed))
      for (const key of k.keys) expect(clash(k.id, key, {})?.id, `${k.id}: ${key}`).toBeUndefined()
  })

  it('finds by the words people use', () => {
    const found = (word: string) =>
      known.filter((k) => `${k.name} ${also[k.id] ?? ''}`.toLowerCase().includes(word)).map((k) => k.id)
    expect(found('pause')).toContain('gate')
    expect(found('delay')).toContain('snooze')
    expect(found('done')).toContain('archive')
    expect(found('todo')).toContain('follow-up')
    expect(found('unsubscribe')).toContain('leave-list')
  })

  it('puts the keys of the user first, also none', () => {
    expect(keysOf('bin', {})).toEqual(['1'])
    expect(keysOf('bin', { bin: 'x' })).toEqual(['x'])
    expect(keysOf('bin', { bin: '' })).toEqual([])
    expect(keysOf('combo-1', {}, ['k'])).toEqual(['k'])
  })

  it('leaves the browser its keys', () => {
    for (const key of ['Tab', 'F5', 'Ctrl+t', 'ArrowDown']) expect(refused(key)).not.toBe('')
    expect(refused('x')).toBe('')
  })

  it.each([
    ['Ctrl+Shift+z', 'Ctrl Shift Z'],
    ['Shift+ArrowDown', 'Shift ↓'],
    [' ', 'Space'],
    ['Shift+ ', 'Shift Space'],
  ])('calls %s %s', (key, name) => expect(keyName(key)).toBe(name))
})
