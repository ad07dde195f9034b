import { sentences } from './sentences'

/** What of the user's decisions can be sent back to a server. */
export const carried = [
  ['archive', sentences.archived],
  ['bin', sentences.binned],
  ['junk', sentences.junk],
  ['read', sentences.readOrUnread],
  ['star', sentences.starred],
] as const
