import { describe, expect, it } from 'vitest'
import { colon, without, withPiece } from './words'

const bytesOf = (words: string, piece: string): [number, number] => {
  const at = new TextEncoder().encode(words.slice(0, words.indexOf(piece))).length
  return [at, at + new TextEncoder().encode(piece).length]
}

describe('the words of a rule', () => {
  it.each([
    ['from harbour with “permit”: label permits, star', 'with “permit”', 'from harbour: label permits, star'],
    ['from harbour with “permit”: label permits, star', 'from harbour', 'with “permit”: label permits, star'],
    ['from harbour: label permits, star', 'label permits', 'from harbour: star'],
    ['from harbour: label permits, star, archive', 'star', 'from harbour: label permits, archive'],
    ['from harbour: label permits, star', 'star', 'from harbour: label permits'],
    ['“ÅÅ” from harbour: star', 'from harbour', '“ÅÅ”: star'],
    ['newsletters or notices: star', 'notices', 'newsletters: star'],
    ['newsletters or notices: star', 'newsletters', 'notices: star'],
  ])('lose a piece: %s', (words, piece, left) => {
    expect(without(words, ...bytesOf(words, piece))).toBe(left)
  })
  it.each([
    ['', 'when', 'newsletters', 'newsletters'],
    ['newsletters', 'then', 'archive', 'newsletters: archive'],
    ['newsletters: archive', 'then', 'star', 'newsletters: archive, star'],
    ['newsletters: archive', 'when', 'with files', 'newsletters with files: archive'],
    ['newsletters: archive', 'except', 'with files', 'newsletters, but not with files: archive'],
    [
      'newsletters, but not with files: archive',
      'except',
      'to me alone',
      'newsletters, but not with files or to me alone: archive',
    ],
    [
      'newsletters, but not with files: archive',
      'when',
      'on weekends',
      'newsletters on weekends, but not with files: archive',
    ],
  ])('get a piece: %s', (words, side, piece, now) => {
    expect(withPiece(words, side, piece)).toBe(now)
  })
  it('have their colon outside of quotation marks and of times', () => {
    expect(colon('with “a: b” after 18:30: star')).toBe(23)
    expect(colon('with “a: b”')).toBe(-1)
  })
})
