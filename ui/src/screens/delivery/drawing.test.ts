import { describe, expect, it } from 'vitest'
import type { Day } from '../../api/gen/delivery'
import { DAY, drawn, minuteAt, moved, place, without, withRound } from './drawing'

const day: Day = {
  open: [{ from: 540, to: 600 }],
  quiet: [{ from: 1080, to: DAY }],
  focus: [{ from: 60, to: 120, name: 'writing' }],
  rounds: [480, 720],
}

describe('the line of a day', () => {
  it('reads each quarter of an hour where it draws it', () => {
    for (let m = 0; m <= DAY; m += 15) expect(minuteAt(place(m))).toBe(m)
  })
  it('ends where the day ends', () => {
    expect(minuteAt(-20)).toBe(0)
    expect(minuteAt(130)).toBe(DAY)
  })
})

describe('a piece', () => {
  it('moves as a whole, or by one end', () => {
    expect(moved(day, { kind: 'open', i: 0 }, 30).open).toEqual([{ from: 570, to: 630 }])
    expect(moved(day, { kind: 'open', i: 0 }, 30, 'from').open).toEqual([{ from: 570, to: 600 }])
    expect(moved(day, { kind: 'open', i: 0 }, 30, 'to').open).toEqual([{ from: 540, to: 630 }])
    expect(moved(day, { kind: 'focus', i: 0 }, 15).focus).toEqual([{ from: 75, to: 135, name: 'writing' }])
    expect(moved(day, { kind: 'round', i: 1 }, -15).rounds).toEqual([480, 705])
  })
  it.each([
    ['past the end of the day', { kind: 'quiet', i: 0 }, 15, 'whole'],
    ['before its beginning', { kind: 'focus', i: 0 }, -75, 'whole'],
    ['to nothing', { kind: 'open', i: 0 }, 60, 'from'],
    ['onto another round', { kind: 'round', i: 0 }, 240, 'whole'],
    ['of the day, as a round', { kind: 'round', i: 0 }, -495, 'whole'],
  ] as const)('does not move %s', (_, piece, by, grip) => expect(moved(day, piece, by, grip)).toBe(day))
  it('goes, and leaves the others', () => {
    expect(without(day, { kind: 'round', i: 0 }).rounds).toEqual([720])
    expect(without(day, { kind: 'quiet', i: 0 })).toEqual({ ...day, quiet: [] })
  })
  it('is drawn, and a round is there once', () => {
    expect(drawn(day, 'focus', { from: 0, to: 15 }, 'tea').focus).toHaveLength(2)
    expect(withRound(day, 600).rounds).toEqual([480, 600, 720])
    expect(withRound(day, 720)).toBe(day)
    expect(withRound(day, DAY)).toBe(day)
  })
})
