import { describe, expect, it } from 'vitest'
import { filterWords } from './words'

const known = {
  stages: [{ id: 'todo', name: 'To do', means: 'open' }],
  labels: [{ id: 4, name: 'loans', path: 'museum/loans', color: 'tide', mark: 'dot', count: 0 }],
} as unknown as Parameters<typeof filterWords>[1]

describe('a filter in words', () => {
  it.each([
    [{}, []],
    [{ day: '2026-11-27' }, ['due Fri 27 Nov']],
    [{ group: 'no-date' }, ['without a date']],
    [{ stage: 'todo' }, ['To do']],
    [{ stage: 'gone' }, ['a stage']], // one that has been taken away since
    [{ label: 4 }, ['label museum/loans']],
    [{ priority: 1 }, ['urgent']],
    [
      { project: 'opening', person: 'Oona Varga', context: 'workshop', words: 'crate' },
      ['project opening', 'with Oona Varga', 'at workshop', '“crate”'],
    ],
  ])('%j', (filter, words) => expect(filterWords(filter, known)).toEqual(words))
})
