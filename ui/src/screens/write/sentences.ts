/** What is said here, in one place. */
export const sentences = {
  aMessageTo: (who: string, subject: string) => `a message to ${who}${subject ? `, “${subject}”` : ''}`,
  nobodyYet: 'nobody yet',
  savedAfterAll: (what: string) => `Saved now, as it could not be before: ${what}.`,
} as const
