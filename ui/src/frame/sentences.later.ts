/** What is said in the frame by what comes after the first load. */
export const sentences = {
  iAmAway: 'I am away: my teams pass me over, and see when I am back',
  beSomebodyElse:
    'Be somebody else of the museum, in another window. Each has their own inbox; Loans is all of theirs.',
  beNamed: (name: string) => `Be ${name}`,
} as const
