/** Numbers from the most on, and texts from A on, unless it is the other way up; what is nothing stands last. */
export function compare(a: number | string, b: number | string, up: boolean) {
  if (typeof a === 'string' || typeof b === 'string') return (up ? -1 : 1) * String(a).localeCompare(String(b))
  if (!a || !b) return Number(!a) - Number(!b)
  return up ? a - b : b - a
}
