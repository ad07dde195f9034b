const bytes = new TextEncoder()
const text = new TextDecoder()

/** The words of a rule without a piece, which is given by its place in bytes. */
export function without(words: string, from: number, to: number) {
  const all = bytes.encode(words)
  const before = text
    .decode(all.slice(0, from))
    .replace(/(^|\s)(or|and)\s*$/i, '$1')
    .replace(/[\s,]+$/, '')
  const after = text.decode(all.slice(to)).replace(/^\s*,/, '').trimStart()
  if (!after || after.startsWith(':')) return before + after
  return before
    ? before.endsWith(':')
      ? `${before} ${after}`
      : `${before}${joint(words, before, after)}${after}`
    : after.replace(/^(or|and)\s+/i, '')
}

/** What stands between two pieces: a comma between actions, a space between conditions. */
const joint = (words: string, before: string, after: string) =>
  before.includes(': ') && words.indexOf(': ') < before.length && !after.startsWith(',') ? ', ' : ' '

/** Where the colon stands between what a rule is about and what it does; -1 without one. */
export function colon(words: string) {
  let quoted = false
  for (let i = 0; i < words.length; i++) {
    if (/["“”„«»]/.test(words[i])) quoted = !quoted
    if (words[i] === ':' && !quoted && (i + 1 === words.length || /\s/.test(words[i + 1]))) return i
  }
  return -1
}

/** The words of a rule with one more piece on one of its sides. */
export function withPiece(words: string, side: string, piece: string) {
  const at = colon(words)
  const about = (at < 0 ? words : words.slice(0, at)).trim()
  const done = at < 0 ? '' : words.slice(at + 1).trim()
  const not = /[,\s]*\b(but not|except|not when)\b/i.exec(about)
  const join = (a: string, b: string, c: string) => (a ? a + c + b : b)
  if (side === 'then') return `${about}: ${join(done, piece, ', ')}`
  const tail = at < 0 ? '' : ': ' + done
  if (side === 'except') return `${about}${not ? ' or ' : ', but not '}${piece}${tail}`
  if (!not) return join(about, piece, ' ') + tail
  return join(about.slice(0, not.index), piece, ' ') + about.slice(not.index) + tail
}
