import type { KeptFolders } from '../../api/gen/inbox'
import { sentences } from './sentences'

/** What of the user's decisions can be sent back to a server. */
export const carried = [
  ['archive', sentences.archived],
  ['bin', sentences.binned],
  ['junk', sentences.junk],
  ['read', sentences.readOrUnread],
  ['star', sentences.starred],
] as const

/** What they are called there, as the user sees them. */
export const foldersOf = ({ root, names = {} }: KeptFolders) =>
  keptFolders.map(([role, name]) => `${root.trim() || sentences.ebbe}/${names[role] || name}`).join(', ')

/** The folders that Ebbe can keep on a server, by what they are for. */
export const keptFolders = [
  ['kept/tomorrow', sentences.folderTomorrow],
  ['kept/this-evening', sentences.folderThisEvening],
  ['kept/next-week', sentences.folderNextWeek],
  ['kept/follow-up', sentences.folderFollowUp],
  ['kept/waiting', sentences.folderWaiting],
  ['kept/never-again', sentences.folderNeverAgain],
  ['kept/snoozed', sentences.folderSnoozed],
] as const
