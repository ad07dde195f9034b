import { expect, test } from 'vitest'
import { compare } from './comparing'

test('the most comes first, or the least, and nothing last either way', () => {
  const by = (all: (number | string)[], up: boolean) => [...all].sort((a, b) => compare(a, b, up))
  expect(by([2, 0, 5, 1], false)).toEqual([5, 2, 1, 0])
  expect(by([2, 0, 5, 1], true)).toEqual([1, 2, 5, 0])
  expect(by(['Mirela', 'Ada', 'Åse'], false)).toEqual(['Ada', 'Åse', 'Mirela'])
  expect(by(['Mirela', 'Ada'], true)).toEqual(['Mirela', 'Ada'])
})
