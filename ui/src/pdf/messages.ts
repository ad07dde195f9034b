import type { Term } from '../api/gen/search'

/** What the reader of PDF is asked. */
export type Ask =
  | { open: ArrayBuffer; terms: Term[]; dark: boolean }
  | { password: string }
  | { turn: number } // pages on, or back
  | { scroll: number } // screenfuls on, or back; beyond the page to the next
  | { zoom: number } // steps
  | { place: number } // places of what was looked for on, or back
  | { given: number; bytes: ArrayBuffer | null } // what it needed

/** What it says. It may have been taken over by a file: whoever hears it believes none of it. */
export type Tell =
  | { ready: true }
  | { need: number; folder: string; name: string }
  | { page: number; pages: number; place: number; places: number; speaking: number[] }
  | { failed: 'locked' | 'wrong-password' | 'broken' | 'page' }
  | { key: Pressed }

/** A key that was pressed in the frame. */
export interface Pressed {
  key: string
  shift: boolean
  ctrl: boolean
}

/** The keys that may come out of a frame: those that go about in a file, and none that decides. */
export const passes = (p: Pressed) =>
  p.ctrl
    ? p.key === 'Enter'
    : /^(Escape|ArrowLeft|ArrowRight|PageUp|PageDown|<|>| )$/.test(p.key) || (p.shift && /^[NPnp]$/.test(p.key))
