import { describe, expect, it } from 'vitest'

type Said = string | ((...words: string[]) => string)
const files = import.meta.glob<{ sentences: Record<string, Said> }>('./**/sentences.ts', { eager: true })
const all = Object.entries(files).flatMap(([file, { sentences }]) =>
  Object.entries(sentences).map(([key, s]) => ({
    where: `${file} ${key}`,
    text: typeof s === 'string' ? s : s('7', '7', '7', '7', '7'),
  })),
)
const having = (words: RegExp) => all.filter((s) => words.test(s.text)).map((s) => `${s.where}: ${s.text}`)

describe('what is said', () => {
  it('stands in a file for each screen', () => {
    expect(Object.keys(files).length).toBeGreaterThanOrEqual(15)
    expect(all.length).toBeGreaterThan(1000)
  })
  it('has one verb for one thing: Save, Cancel, Delete, Remove', () => {
    expect(
      having(/\b(stor(e|ed|ing)\b|throw|forget the|take (it )?out|taken? (it )?away|drop it$|leave it|keep it\b)/i),
    ).toEqual([])
  })
  it('has one word for showing fewer', () => {
    expect(having(/\bnarrow|\bonly show\b|all again/i)).toEqual([])
  })
  it('says what may be left empty in one way', () => {
    expect(having(/may (stay|be) (left )?empty/i)).toEqual([])
  })
  it('names things rather than riddles', () => {
    expect(having(/stands? here|what leaves|who heard|carried back|in step\b/i)).toEqual([])
  })
  it('is short', () => {
    const long = all.flatMap((s) => s.text.split(/[.?!:;]\s/).map((part) => ({ ...s, part })))
    expect(long.filter((s) => s.part.split(' ').length > 32).map((s) => `${s.where}: ${s.part}`)).toEqual([])
  })
})
