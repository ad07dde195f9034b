import { expect, it } from 'vitest'
import { asCSV } from './panel'

it('writes a table as lines of a file, with what has commas, quotes and breaks between quotes', () => {
  expect(
    asCSV({
      head: ['Day', 'Came in'],
      rows: [
        ['Tue, 24 Nov', 12],
        ['a "day"', 0],
      ],
    }),
  ).toBe('Day,Came in\r\n"Tue, 24 Nov",12\r\n"a ""day""",0\r\n')
})
