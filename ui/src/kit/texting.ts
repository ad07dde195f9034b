// How long a text message is and in how many parts it goes: the same as the core's texting.Measure, which has
// the last word, so that it can be shown as one types.

const BASIC =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà'
const FURTHER = '\f^{}\\[~]|€'
const units = new Map([...[...BASIC].map((c) => [c, 1] as const), ...[...FURTHER].map((c) => [c, 2] as const)])
const room = { 'gsm-7': { alone: 160, part: 153 }, 'ucs-2': { alone: 70, part: 67 } }

/** In how many parts a text goes at most. */
export const MOST_PARTS = 10

export function measure(text: string) {
  const all = [...text]
  const alphabet = all.every((c) => units.has(c)) ? ('gsm-7' as const) : ('ucs-2' as const)
  const of = (c: string) => (alphabet === 'gsm-7' ? units.get(c)! : c.length)
  const sum = all.reduce((n, c) => n + of(c), 0)
  let left = room[alphabet].alone - sum
  let parts = 1
  if (left < 0) {
    left = room[alphabet].part
    for (const c of all) {
      if (of(c) > left) {
        parts++
        left = room[alphabet].part
      }
      left -= of(c)
    }
  }
  return { alphabet, units: sum, parts, left }
}
