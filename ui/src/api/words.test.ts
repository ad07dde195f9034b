import { expect, test } from 'vitest'
import type { Term } from './gen/search'
import { spansOf } from './words'

const term = (words: string, begins = true, not = false): Term => ({
  text: words,
  words: words.split(' '),
  begins,
  not,
})
const marked = (text: string, ...terms: Term[]) => spansOf(text, terms).map(([a, b]) => text.slice(a, b))

test('words are marked where they begin, and whole', () => {
  expect(marked('The crate’s crates, a Crater and an uncrated lid', term('crate'))).toEqual([
    'crate',
    'crates',
    'Crater',
  ])
  expect(marked('It is is', term('is', false))).toEqual(['is', 'is'])
  expect(marked('island', term('is', false))).toEqual([])
})

test('case, accents and other ways of writing make no difference', () => {
  expect(marked('Große STRASSE, Straße', term('strasse'))).toEqual(['STRASSE', 'Straße'])
  expect(marked('Łódź e\u0301te\u0301 ÆRØ Ｆｕｌｌ', term('lodz'), term('ete'), term('aero'), term('full'))).toEqual([
    'Łódź',
    'e\u0301te\u0301',
    'ÆRØ',
    'Ｆｕｌｌ',
  ])
})

test('words that stand together are marked together, and what must not be there is not marked', () => {
  expect(marked('With the feet off. With feet', term('with the feet', false))).toEqual(['With the feet'])
  expect(marked('crate lid', term('crate'), term('lid', true, true))).toEqual(['crate'])
})

test('scripts without spaces are marked within a run', () => {
  expect(marked('東京都庁より', term('京都 都庁', false))).toEqual(['京都庁'])
  expect(marked('東京', term('京', true))).toEqual(['京'])
})

test('what overlaps is one mark', () => {
  expect(marked('crates', term('crate'), term('crates'))).toEqual(['crates'])
  expect(marked('a.b (c)', term('b', false), term('c', false))).toEqual(['b', 'c'])
})
