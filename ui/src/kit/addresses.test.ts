import { describe, expect, it } from 'vitest'
import { inQuotes, isAddress, readPeople, withPeople } from './addresses'

describe('people as they are typed', () => {
  it.each([
    ['oona@varga.example', [{ name: '', address: 'oona@varga.example' }]],
    ['Oona Varga <Oona@Varga.example>', [{ name: 'Oona Varga', address: 'oona@varga.example' }]],
    ['"Varga, Oona" <oona@varga.example>', [{ name: 'Varga, Oona', address: 'oona@varga.example' }]],
    [
      'a@x.example, b@x.example;c@x.example\nd@x.example',
      ['a', 'b', 'c', 'd'].map((n) => ({ name: '', address: `${n}@x.example` })),
    ],
    [
      '"Varga, Oona" <oona@varga.example>, "Lind; Per" <per@lind.example>',
      [
        { name: 'Varga, Oona', address: 'oona@varga.example' },
        { name: 'Lind; Per', address: 'per@lind.example' },
      ],
    ],
    [' ,; \r\n', []],
    ['nobody', [{ name: '', address: 'nobody' }]], // shown as what it is: no address
    ['<oona@varga.example>', [{ name: '', address: 'oona@varga.example' }]],
    ['"left open <a@x.example>', [{ name: 'left open', address: 'a@x.example' }]],
  ])('%s', (text, people) => expect(readPeople(text)).toEqual(people))

  it.each([
    ['oona@varga.example', true],
    ['oona@localhost', true],
    ['Übung@straße.example', true],
    ['oona', false],
    ['oona@', false],
    ['@varga.example', false],
    ['oona varga@x.example', false],
    ['a@b@c.example', false],
    ['Oona <oona@varga.example>', false],
  ])('%s looks like an address: %s', (text, is) => expect(isAddress(text)).toBe(is))

  it.each([
    ['', false],
    ['Oona', false],
    ['"Varga', true],
    ['"Varga, Oona"', false],
    ['"Varga, Oona" <oona@varga.example>, "Lind', true],
  ])('%s is within quotes: %s', (text, is) => expect(inQuotes(text)).toBe(is))

  it('stand once each, those who were there first', () => {
    const oona = { name: 'Oona Varga', address: 'oona@varga.example' }
    const per = { name: '', address: 'per@lind.example' }
    expect(withPeople([oona], [{ name: '', address: 'oona@varga.example' }, per, per])).toEqual([oona, per])
    expect(withPeople([], [])).toEqual([])
  })
})
