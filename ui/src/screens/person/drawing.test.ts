import { expect, test } from 'vitest'
import { bestHours } from './drawing'

test('the best hours of somebody are the three in which most answers came', () => {
  const hours = (of: Record<number, number>) => Array.from({ length: 24 }, (_, h) => of[h] ?? 0)
  expect(bestHours(hours({ 9: 4, 10: 3, 16: 2 }))).toEqual(['9:00', '12:00'])
  expect(bestHours(hours({ 23: 6 }))).toEqual(['23:00', '24:00'])
  expect(bestHours(hours({ 9: 4 }))).toBeUndefined() // too few
  expect(bestHours(hours({ 1: 2, 6: 2, 11: 2, 16: 2, 21: 2 }))).toBeUndefined() // at any time
})
