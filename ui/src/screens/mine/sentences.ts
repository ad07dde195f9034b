/** What is said here, in one place. */
export const sentences = {
  inAllBoxes: 'In all boxes',
  mine: 'Yours, in all boxes',
  whatStandsHere:
    'Follow-ups of your own box, and those you have in your teams. What waits for somebody else stands in Waiting.',
  nothing: 'Nothing is yours to do.',
  nothingYet: 'What you take in a team, or are given, is listed with your own.',
  loading: 'What is yours is on its way',
  late: 'Late',
  today: 'Today',
  tomorrow: 'Tomorrow',
  thisWeek: 'Within a week',
  later: 'Later',
  undated: 'Without a date',
  yourOwn: 'your own',
  more: (n: number) => `and ${n} more`,
  which: 'Which box',
  all: 'all',
} as const
