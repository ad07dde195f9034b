import { describe, expect, it } from 'vitest'
import { passes } from './messages'

describe('keys out of the frame of a file', () => {
  it.each(['Escape', 'ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown', ' ', '<', '>'])('%s goes about in it', (key) =>
    expect(passes({ key, shift: false, ctrl: false })).toBe(true),
  )
  it('lets the next file and the next place be asked for', () => {
    expect(passes({ key: 'Enter', shift: false, ctrl: true })).toBe(true)
    expect(passes({ key: 'N', shift: true, ctrl: false })).toBe(true)
  })
  it('lets nothing decide, write or leave', () => {
    const plain = ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0', 'n', 'i', 'd', '*', 'Enter', 'Delete', 'F9', 'Tab']
    for (const key of plain) expect(passes({ key, shift: false, ctrl: false }), key).toBe(false)
    for (const key of ['z', 'a', 'k', 'Escape', 'ArrowUp', 'Delete', '1'])
      expect(passes({ key, shift: false, ctrl: true }), 'Ctrl ' + key).toBe(false)
    for (const key of ['Delete', 'Enter', 'F4', 'D', '!'])
      expect(passes({ key, shift: true, ctrl: false }), key).toBe(false)
  })
})
