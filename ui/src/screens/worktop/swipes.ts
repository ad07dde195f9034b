import type { Habits } from '../../api/gen/inbox'
import type { Swipe } from '../../kit/touch'
import { sentences } from './sentences'

/** What can be done with a slip by moving it aside. */
export const swipeNames: Record<string, string> = {
  archive: sentences.archiveTitle,
  bin: sentences.binTitle,
  snooze: sentences.snooze,
  'follow-up': sentences.followUp,
  star: sentences.star,
  read: sentences.read,
}
const usual: Record<Swipe, string> = { left: 'snooze', leftFar: 'follow-up', right: 'archive', rightFar: 'bin' }

/** The command of each swipe, as the user wants it. */
export const swipesOf = (h: Habits): Record<Swipe, string> => ({
  left: h.swipeLeft || usual.left,
  leftFar: h.swipeLeftFar || usual.leftFar,
  right: h.swipeRight || usual.right,
  rightFar: h.swipeRightFar || usual.rightFar,
})

export const namesOf = (s: Record<Swipe, string>): Record<Swipe, string> => ({
  left: swipeNames[s.left],
  leftFar: swipeNames[s.leftFar],
  right: swipeNames[s.right],
  rightFar: swipeNames[s.rightFar],
})
