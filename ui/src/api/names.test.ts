import { describe, expect, it } from 'vitest'
import { called } from './names'

describe('what somebody is called', () => {
  it.each([
    ['Mirela Dossett', 'Mirela'],
    ['Mirela', 'Mirela'],
    ['Dr. Ilse Marchetti', 'Ilse Marchetti'],
    ['Prof. Dr. Ilse Marchetti', 'Ilse Marchetti'],
    ['Town Harbour Office', 'Town Harbour Office'],
    ['Fjordveien School', 'Fjordveien School'],
    ['Anna Maria Vik', 'Anna Maria Vik'],
    ['mirela@dossett.example', 'mirela@dossett.example'],
    ['Drake Holm', 'Drake'],
    ['', ''],
  ])('%s: %s', (name, is) => expect(called(name)).toBe(is))
})
