/** What is said here, in one place. */
export const sentences = {
  activity: 'Activity',
  whatConcernsYou:
    'What happened to what you have, follow or are called in, newest first. What you did yourself is not here.',
  loading: 'Loading what concerns you',
  nothingYet: 'Nothing concerns you yet',
  whatWillBeHere:
    'When somebody of a team gives you a conversation, calls you in a comment, or does anything to one that you follow, it appears here.',
  allBoxes: 'All teams',
  whichBox: 'Which team',
  allRead: 'Mark all as read',
  new: (n: number) => `${n} new`,
  more: (n: number) => `and ${n} more before`,
  earlier: 'Earlier',
  somebodyWhoLeft: 'Somebody who left',
  callsYou: 'calls you:',
  says: 'says:',
  deletedComment: 'deleted a comment',
  givesItToYou: 'gives it to you',
  noSubject: 'no subject',
}
