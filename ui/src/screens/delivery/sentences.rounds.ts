/** What is said about rounds of its own, here and among the subscriptions. */
export const sentences = {
  onTheseDays: 'On these days',
  at: 'At',
  noTimeOfDay: (text: string) => `“${text}” is no time of day: type 9:00, or 16.30.`,
} as const
