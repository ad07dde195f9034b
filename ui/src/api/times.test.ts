import { afterEach, describe, expect, it, vi } from 'vitest'
import * as times from './times'

const at = (text: string) => Date.parse(text)
const zones = ['Europe/Oslo', 'Pacific/Auckland', 'America/New_York', 'Asia/Kolkata']
const inZone = (zone: string, now: string, twelve = false) => {
  vi.useFakeTimers({ now: at(now) })
  times.setZone(zone, twelve)
}
afterEach(() => vi.useRealTimers())

describe('days where the user is', () => {
  it.each(zones)('begin once each and cover all time in %s, also where clocks change', (zone) => {
    inZone(zone, '2026-11-24T09:00Z')
    for (let day = '2026-01-01'; day < '2027-01-01'; day = times.addDays(day, 1)) {
      const start = times.startOf(day)
      expect(times.dayKey(start)).toBe(day)
      expect(times.dayKey(start - 1)).toBe(times.addDays(day, -1))
      const hours = (times.startOf(times.addDays(day, 1)) - start) / 3_600_000
      expect([23, 24, 25]).toContain(hours)
    }
  })

  it('begin late where their midnight does not exist', () => {
    inZone('America/Santiago', '2026-11-24T09:00Z')
    expect(times.clock(times.startOf('2026-09-06'))).toBe('1:00')
    expect(times.clock(times.startOf('2026-09-07'))).toBe('0:00')
  })

  it.each(zones)('have their own name in %s, and their own weekday', (zone) => {
    inZone(zone, '2026-11-24T09:00Z')
    expect(times.dateOf('2026-11-24')).toBe('Tue 24 Nov')
    expect(times.dateOf('2025-11-24')).toBe('Mon 24 Nov 2025')
    expect(times.weekdayOf('2026-11-29')).toBe('Sun')
    expect(times.dayOfWeek('2026-11-29')).toBe(0)
  })

  it('are those of the zone of the user, not of the browser', () => {
    inZone('Pacific/Auckland', '2026-11-24T12:00Z')
    expect(times.today()).toBe('2026-11-25')
    expect(times.daysAway(at('2026-11-24T10:59Z'))).toBe(-1)
    times.setZone('America/New_York', false)
    expect(times.today()).toBe('2026-11-24')
    expect(times.daysAway(at('2026-11-24T04:59Z'))).toBe(-1)
  })

  it('can be counted on over a change of the clocks', () => {
    inZone('Europe/Oslo', '2026-10-24T22:30Z')
    expect(times.today()).toBe('2026-10-25')
    expect(times.addDays(times.today(), 1)).toBe('2026-10-26')
    expect(times.daysAway(at('2026-10-25T23:30Z'))).toBe(1)
  })
})

describe('times in words', () => {
  it('say a day as near as it is', () => {
    inZone('Europe/Oslo', '2026-11-24T09:00Z')
    expect(times.long(at('2026-11-24T07:12Z'))).toBe('today 8:12')
    expect(times.long(at('2026-11-23T07:12Z'))).toBe('yesterday 8:12')
    expect(times.long(at('2026-11-27T12:30Z'))).toBe('Fri 27 Nov, 13:30')
    expect(times.short(at('2026-11-24T07:12Z'))).toBe('8:12')
    expect(times.short(at('2026-11-20T07:12Z'))).toBe('Fri')
    expect(times.short(at('2026-10-20T07:12Z'))).toBe('20 Oct')
    expect(times.short(at('2025-10-20T07:12Z'))).toBe('20 Oct 2025')
    expect(times.due({ at: at('2026-11-25T11:00Z'), local: '2026-11-25T12:00', zone: '' })).toBe('tomorrow 12:00')
    expect(times.due({ at: at('2026-11-25T23:00Z'), local: '2026-11-26', zone: '' })).toBe('Thu')
  })

  it('use the clock of twelve hours everywhere once it is chosen', () => {
    inZone('Europe/Oslo', '2026-11-24T09:00Z', true)
    expect(times.clock(at('2026-11-24T07:12Z'))).toBe('8:12 am')
    expect(times.long(at('2026-11-27T12:30Z'))).toBe('Fri 27 Nov, 1:30 pm')
    expect([0, 510, 720, 1439].map(times.clockOf)).toEqual(['12:00 am', '8:30 am', '12:00 pm', '11:59 pm'])
    times.setZone('Europe/Oslo', false)
    expect([0, 510, 720, 1439].map(times.clockOf)).toEqual(['0:00', '8:30', '12:00', '23:59'])
  })

  it('say spans, minutes and sizes', () => {
    expect([20_000, 30 * 60_000, 5 * 3_600_000, 72 * 3_600_000].map(times.span)).toEqual([
      '1 min',
      '30 min',
      '5 h',
      '3 days',
    ])
    expect([30, 60, 90].map(times.minutes)).toEqual(['30 min', '1 h', '1 h 30 min'])
    expect([999, 1500, 2_500_000].map(times.size)).toEqual(['999 bytes', '2 kB', '2.5 MB'])
    expect([times.plural(1, 'day'), times.plural(2, 'day'), times.plural(2, 'reply', 'replies')]).toEqual([
      '1 day',
      '2 days',
      '2 replies',
    ])
  })
})

describe('the days of the week', () => {
  it('have names, Sunday first, wherever the user is', () => {
    inZone('Pacific/Auckland', '2026-11-24T09:00Z')
    expect(times.weekdays('short')).toEqual(['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'])
    expect(times.weekdays('long')[3]).toBe('Wednesday')
  })
})
