import { useState } from 'react'
import { EbbeError, put } from '../../api/client'
import type { Settings } from '../../api/desk'
import { client } from '../../api/queries'
import { useSession } from '../../api/session'
import { useDesk } from '../../frame/desk'
import { useKept } from '../../frame/kept'
import { sentences } from './sentences'

export const toMinutes = (text: string) => {
  const m = /^(\d{1,2})[:.]?(\d{2})?$/.exec(text.trim())
  return m && +m[1] < 24 && +(m[2] ?? 0) < 60 ? +m[1] * 60 + +(m[2] ?? 0) : -1
}
export const toClock = (minutes: number) => `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`
export const two = (n: number) => String(n).padStart(2, '0')

/** What is chosen in Setup, and saved together. */
export function useChoosing({ settings }: { settings: Settings }) {
  const session = useSession().data!
  const { say } = useDesk()
  const kept = useKept()
  const [s, setS] = useState(settings)
  const [parts, setParts] = useState({
    morning: toClock(s.week.morning),
    midday: toClock(s.week.midday),
    evening: toClock(s.week.evening),
  })
  const [more, setMore] = useState('')
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const habit = (change: Partial<Settings['habits']>) => setS({ ...s, habits: { ...s.habits, ...change } })
  const week = (change: Partial<Settings['week']>) => setS({ ...s, week: { ...s.week, ...change } })
  const save = async (e: React.FormEvent) => {
    e.preventDefault()
    setWrong(null)
    try {
      const week = {
        ...s.week,
        morning: toMinutes(parts.morning),
        midday: toMinutes(parts.midday),
        evening: toMinutes(parts.evening),
      }
      await put('/settings', {
        ...s,
        habits: { ...s.habits, combos: settings.habits.combos, keys: settings.habits.keys },
        week,
        addresses: [...s.addresses, ...(more.trim() ? [more.trim()] : [])],
      })
      kept.forget('setup')
      await client.invalidateQueries()
      say({ text: sentences.saved })
    } catch (problem) {
      if (problem instanceof EbbeError) setWrong(problem)
    }
  }
  const at = (field: string) => (wrong?.field === field ? wrong.message : undefined)
  return { session, s, setS, parts, setParts, more, setMore, habit, week, save, at }
}
