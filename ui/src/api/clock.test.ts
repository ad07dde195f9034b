import { expect, test } from 'vitest'
import { clock, minutes } from './clock'

test.each([
  ['8', 480],
  ['8:00', 480],
  ['07.15', 435],
  ['1915', 1155],
  ['7h30', 450],
  ['6:30 pm', 1110],
  ['12 am', 0],
  ['12:05pm', 725],
  ['23:59', 1439],
  ['24:00', -1],
  ['8:60', -1],
  ['13 pm', -1],
  ['0 am', -1],
  ['soon', -1],
  ['', -1],
])('“%s” is %i minutes after midnight', (text, at) => {
  expect(minutes(text)).toBe(at)
  if (at >= 0) expect(minutes(clock(at))).toBe(at)
})
