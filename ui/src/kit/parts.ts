/** What is said to a line by a click: a part of that kind, instead of the one there is. */
export interface Said {
  kind: string
  words: string
  n: number // counts what was said
}

/** A line with a part in it: in place of the one that stands there for the same, or at its end; said again it goes. */
export function withPart(line: string, before: string | undefined, words: string): string {
  const parts = line.split('/').map((p) => p.trim())
  const at = parts.findIndex((p) => p !== '' && p === (before ?? words).trim())
  if (at >= 0 && parts[at] === words) parts.splice(at, 1)
  else if (at >= 0) parts[at] = words
  else parts.push(words)
  return parts.filter(Boolean).join(' / ')
}

const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
/** A wall-clock time as one writes it in a line: "27 nov 13:30". */
export function inWords(local: string) {
  const [day, time] = local.split('T')
  const [, month, d] = day.split('-').map(Number)
  return `${d} ${months[month - 1]}${time ? ' ' + time.replace(/^0/, '') : ''}`
}
