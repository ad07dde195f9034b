import type { Term } from './gen/search'

// Letters that no decomposition of Unicode takes apart, as the program spells them when it looks for words.
const spelled: Record<string, string> = {
  ß: 'ss',
  ẞ: 'ss',
  ø: 'o',
  æ: 'ae',
  œ: 'oe',
  đ: 'd',
  ð: 'd',
  ł: 'l',
  þ: 'th',
  ħ: 'h',
  ı: 'i',
  ŀ: 'l',
  ŧ: 't',
  ŋ: 'n',
  ς: 'σ',
}
const mark = /\p{Mn}/u
const unspaced =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}ー]/u

/** A text as it is looked through, without case and accents, with where each of its characters stood. */
function folded(text: string) {
  let out = ''
  const at: number[] = []
  let i = 0
  for (const c of text) {
    for (const d of c.normalize('NFKD')) {
      if (mark.test(d)) continue
      const low = d.toLowerCase()
      const f = spelled[d] ?? spelled[low] ?? low
      out += f
      for (let k = 0; k < f.length; k++) at.push(i)
    }
    i += c.length
  }
  at.push(text.length)
  return { out, at }
}

const literally = (s: string) => s.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&')

/** What finds a term in a folded text; pairs of characters, as the index has scripts without spaces, are put together again. */
function finder({ words, begins }: Term) {
  let source = ''
  words.forEach((w, i) => {
    const before = words[i - 1]
    if (i > 0 && unspaced.test(w) && unspaced.test(before) && before.endsWith([...w][0]) && [...before].length > 1)
      source += literally([...w].slice(1).join(''))
    else source += (i > 0 ? '[^\\p{L}\\p{N}]*' : '') + literally(w)
  })
  if (unspaced.test(words[0])) return new RegExp(source, 'gu')
  return new RegExp(`(?<![\\p{L}\\p{N}])${source}${begins ? '[\\p{L}\\p{N}]*' : '(?![\\p{L}\\p{N}])'}`, 'gu')
}

/** Where in a text the terms stand, in UTF-16 units, in their order. */
export function spansOf(text: string, terms: Term[]): [number, number][] {
  const { out, at } = folded(text)
  const all: [number, number][] = []
  for (const t of terms) {
    if (t.not) continue
    for (const m of out.matchAll(finder(t))) if (m[0]) all.push([at[m.index], at[m.index + m[0].length]])
  }
  all.sort((a, b) => a[0] - b[0] || b[1] - a[1])
  const merged: [number, number][] = []
  for (const s of all) {
    const last = merged.at(-1)
    if (last && s[0] < last[1]) last[1] = Math.max(last[1], s[1])
    else merged.push([...s])
  }
  return merged
}
