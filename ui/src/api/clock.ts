const two = (n: number) => String(n).padStart(2, '0')

/** Minutes after midnight, as one types them: "8:00". */
export const clock = (minutes: number) => `${Math.floor(minutes / 60)}:${two(minutes % 60)}`

/** The minutes after midnight of a time of day as somebody types it ("7.15", "8", "6:30 pm"); -1 if it is none. */
export function minutes(text: string) {
  const m = /^(\d{1,2})(?:[:.h]?(\d{2}))?\s*(am|pm)?$/i.exec(text.trim())
  if (!m) return -1
  const half = m[3]?.toLowerCase()
  const hour = +m[1]
  if (+(m[2] ?? 0) > 59 || hour > (half ? 12 : 23) || (half && hour < 1)) return -1
  return (half ? (hour % 12) + (half === 'pm' ? 12 : 0) : hour) * 60 + +(m[2] ?? 0)
}
