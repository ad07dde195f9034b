/** What is said of the coming weeks, in one place. */
export const looking = {
  ahead: 'Ahead',
  backToAhead: '← Ahead',
  sixWeeks: 'The coming six weeks',
  fridayOff: 'Take the coming Friday off, in thought',
  noneOff: 'Take no day off',
  takeOff: 'Days to take off, in thought',
  takeThatOff: (date: string) => `Take ${date} off, in thought`,
  whatIf: 'What if you took a day off? Press it below; x does so with the coming Friday.',
  offAlready: 'These are no working days.',
  offFree: (days: string) => `With ${days} off, nothing is left longer than it would be.`,
  offCosts: (days: string, more: string, work: string, until: string) =>
    `With ${days} off, up to ${more} more are left to decide${work && ` and ${work} of follow-ups are not done`}; ` +
    (until ? `at the end of ${until} it is as without.` : 'within six weeks that is not made up.'),
  expected: 'Expected',
  comesBack: 'Comes back',
  usuallyDecided: 'Decided on a full day',
  leftAtItsEnd: 'Left at its end',
  dueMinutes: 'Due (min)',
  eventMinutes: 'Events (min)',
  usuallyDone: 'Usually done (min)',
  overAtItsEnd: 'Not done at its end (min)',
  toDecide: 'To decide',
  toDo: 'To do',
  nameUpTo: (name: string, most: string) => `${name}, up to ${most}`,
  aheadBar: (day: string, first: string, second: string, left: string) =>
    `${day}: ${first} and ${second}, ${left} left at its end`,
  howToRead:
    'Above: mail that is to be expected, and on it what comes back. Below: what is due, and on it events. ' +
    'The mark is what you decide on a full day, and usually finish on such a day; the red line is what is left at its end.',
  inTheInbox: 'In the inbox since',
  openFollowUps: 'Open follow-ups, made',
  since: 'Since',
  howMany: 'How many',
  ageToday: 'today',
  ageThreeDays: 'three days',
  ageWeek: 'a week',
  ageFourWeeks: 'four weeks',
  ageQuarter: 'a quarter of a year',
  ageLonger: 'longer',
  olderThanFour: (all: string, old: string) => `Of ${all}, ${old} are older than four weeks.`,
  nothingOpen: 'Nothing is open.',
  wasItTrue: 'Was what was foreseen true?',
  nearer: (n: number, of: number) =>
    n === of
      ? 'What would have been foreseen each morning of eight weeks was nearer to what happened than the week before would have said, in all of these.'
      : n === 0
        ? 'What would have been foreseen each morning of eight weeks was no nearer to what happened than the week before would have said.'
        : `What would have been foreseen each morning of eight weeks was nearer to what happened than the week before in ${n} of ${of}.`,
  tooFewMornings: 'There were too few mornings on which anything was foreseen to say how good that was.',
  tooFewDays: 'too few days to say',
  foreseen: 'In the morning',
  offBy: 'Off by, in the mean',
  aWeekBefore: 'As a week before',
  onDays: 'Days',
  zeroTime: 'When nothing is left to decide',
  expectedMail: 'How much comes until midnight',
  finishedWork: 'How much is finished of follow-ups',
  message: 'message',
  now: (left: string, late: string) =>
    `${left} are left to decide now${late && `, and ${late} of follow-ups are late`}.`,
  heaviestAhead: (day: string, due: string, events: string) =>
    `${day} is the fullest: ${due} due, ${events} of events.`,
  throughBy: (day: string) => `With full days nothing is left on ${day}.`,
  neverThrough: 'Even with full days something is always left: more comes than you decide.',
  moreThanUsual: (day: string) => `On ${day} more is due than you usually finish.`,
  nobodyHas: 'What nobody has',
  dueToday: 'Due today, by who has it',
  dueTodayHint: 'Against what each usually finishes of the team’s on such a day. Nothing of their own boxes is in it.',
  member: 'Member',
  openOnes: 'Open',
  openCount: (n: string) => `${n} open`,
  ofUsual: (today: string, usual: string) => `${today} of ${usual}`,
} as const
