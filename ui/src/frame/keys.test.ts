import { describe, expect, it } from 'vitest'
import { keyOf, meanings, type Pressed } from './keys'

/** A press: the key as the layout writes it, where it lies, and what is held. */
const press = (key: string, code: string, held: Partial<Pressed> = {}): Pressed => ({
  key,
  code,
  ctrlKey: false,
  metaKey: false,
  shiftKey: false,
  altKey: false,
  ...held,
})
const shift = { shiftKey: true }
const control = { ctrlKey: true }

describe('what a press means', () => {
  it.each<[string, Pressed, string[]]>([
    ['a digit', press('5', 'Digit5'), ['5']],
    ['a digit of the number pad', press('5', 'Numpad5'), ['5']],
    ['a letter', press('i', 'KeyI'), ['i']],
    ['a letter with Shift', press('A', 'KeyA', shift), ['Shift+a']],
    ['a letter while Caps Lock is on', press('I', 'KeyI'), ['i']],
    ['a letter with Control', press('z', 'KeyZ', control), ['Ctrl+z']],
    ['both', press('Z', 'KeyZ', { ...shift, ...control }), ['Ctrl+Shift+z']],
    ['a named key', press('ArrowDown', 'ArrowDown', shift), ['Shift+ArrowDown']],
    ['Space', press(' ', 'Space', shift), ['Shift+ ']],
    ['a star on an American keyboard', press('*', 'Digit8', shift), ['*', 'Shift+8']],
    ['a star on a German keyboard', press('*', 'BracketRight', shift), ['*']],
    ['Shift and a digit', press('"', 'Digit2', shift), ['"', 'Shift+2']],
    // AZERTY writes other signs with the row of digits, and digits with Shift.
    ['1 on AZERTY', press('&', 'Digit1'), ['1', '&']],
    ['6 on AZERTY, which writes a hyphen', press('-', 'Digit6'), ['6', '-']],
    ['2 on AZERTY', press('é', 'Digit2'), ['2', 'é']],
    ['a written digit on AZERTY', press('1', 'Digit1', shift), ['1']],
    ['a, where an American keyboard has q', press('a', 'KeyQ'), ['a']],
    ['i on a Russian keyboard', press('ш', 'KeyI'), ['i', 'ш']],
    ['Control and z on a Russian keyboard', press('я', 'KeyZ', control), ['Ctrl+z', 'Ctrl+я']],
    ['Shift and a on a Greek keyboard', press('Α', 'KeyA', shift), ['Shift+a', 'α']],
    ['a letter beside the others', press('ö', 'Semicolon'), ['ö']],
  ])('%s', (_, e, want) => expect(meanings(e)).toEqual(want))

  it.each<[string, Pressed]>([
    ['a word that is being composed', press('i', 'KeyI', { isComposing: true })],
    ['the key that ends composing, as some browsers tell it', press('Enter', 'Enter', { keyCode: 229 })],
    ['a dead key', press('Dead', 'BracketLeft')],
    ['Alt', press('5', 'Digit5', { altKey: true })],
    ['AltGr', press('=', 'Digit0', { getModifierState: (k) => k === 'AltGraph' })],
  ])('%s means nothing', (_, e) => {
    expect(meanings(e)).toEqual([])
    expect(keyOf(e)).toBe('')
  })
})
