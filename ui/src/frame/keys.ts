/** What of a keyboard event says which key was pressed. */
export interface Pressed {
  key: string
  code: string
  ctrlKey: boolean
  metaKey: boolean
  shiftKey: boolean
  altKey: boolean
  isComposing?: boolean
  keyCode?: number
  getModifierState?: (key: string) => boolean
}

/**
 * What a press can mean, as commands name keys, the likeliest first. A word that is being composed means nothing, and
 * nor does anything with Alt or AltGr: these write. Digits and Latin letters are meant as they are written. Where the
 * keyboard writes something else, the row of digits counts by its place, and so do letters of other alphabets.
 */
export function meanings(e: Pressed): string[] {
  if (e.isComposing || e.keyCode === 229 || /^(Dead|Process|Unidentified)$/.test(e.key)) return []
  if (e.altKey || e.getModifierState?.('AltGraph')) return []
  const held = e.ctrlKey || e.metaKey ? 'Ctrl+' : ''
  const shifted = held + (e.shiftKey ? 'Shift+' : '')
  if ([...e.key].length > 1 || e.key === ' ') return [shifted + e.key]
  const written = e.key.toLowerCase()
  if (/^[a-z]$/.test(written)) return [shifted + written]
  if (/^\d$/.test(written)) return [held + written]
  const digit = /^Digit(\d)$/.exec(e.code)?.[1]
  if (digit) return e.shiftKey ? [held + written, shifted + digit] : [held + digit, held + written]
  const letter = /^Key([A-Z])$/.exec(e.code)?.[1].toLowerCase()
  if (letter && /\p{L}/u.test(written)) return [shifted + letter, held + written]
  return [held + written]
}

/** The key of an event as commands name it; empty if it names none. */
export const keyOf = (e: Pressed) => meanings(e)[0] ?? ''

/** Keys that move about: while a tray is open they are its own. */
export const moves = (key: string) => /^(Shift\+)?(Arrow\w+|Home|End|PageUp|PageDown| )$/.test(key)

/** Whether keys pressed there write text, or look for something by its letters. */
export const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    !!target.closest('[data-typing]') ||
    target.tagName === 'TEXTAREA' ||
    (target.tagName === 'INPUT' && !/^(checkbox|radio|button)$/.test((target as HTMLInputElement).type)))
