import type { Address } from '../api/gen/mail'

const whole = /^[^\s@<>"(),;:\\]+@[^\s@<>"(),;:\\]+$/
/** Whether something typed looks like a mail address. */
export const isAddress = (s: string) => whole.test(s)

/** People as one types or pastes them: addresses, with or without a name before them. */
export function readPeople(text: string): Address[] {
  return parts(text)
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => {
      const m = /^"?([^"<]*?)"?\s*<([^<>]+)>$/.exec(part)
      return m ? { name: m[1].trim(), address: m[2].trim().toLowerCase() } : { name: '', address: part.toLowerCase() }
    })
}

/** Whether a name in quotes has begun and not ended: a comma is part of it. */
export const inQuotes = (text: string) => (text.match(/"/g)?.length ?? 0) % 2 === 1

/** What stands between commas, semicolons and line ends, but for those within quotes. */
const parts = (text: string) => text.match(/(?:"[^"\n\r]*"|[^,;\n\r])+/g) ?? []

/** People and more of them, each address once; who stood there first stays. */
export function withPeople(people: Address[], more: Address[]): Address[] {
  const all = [...people]
  for (const a of more) if (!all.some((p) => p.address === a.address)) all.push(a)
  return all
}
