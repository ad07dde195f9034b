/** What is said of a week in review, in one place. */
export const reviewing = {
  review: 'Review',
  weekInReview: 'The week in review',
  whatFollows: 'What follows from it',
  whatFollowsHint: 'Each is done, or stays away, at a key.',
  nothingFollows: 'Nothing this week: no list that is never read, nothing that is put off again and again.',
  staysAway: 'That will not be offered again.',
  takeOffer: (n: number) => `Do what is offered, number ${n}`,
  refuseOffer: (n: number) => `Refuse what is offered, number ${n}`,
  no: 'No',
  shiftAnd: (key: string) => `Shift ${key.toUpperCase()}`,
  zeroLine: (days: number, of: number, run: number) =>
    `${days} of ${of} working days ended at zero; ${run} in a row up to now.`,
  atFirst: (n: number) => `${n} of 100 were decided at first sight.`,
  workLine: (made: number, done: number, late: number, moved: number) =>
    `Follow-ups: ${made} made, ${done} finished (${late} late), ${moved} moved to later.`,
  nextWeek: (due: string, day: string, full: string) =>
    `In the seven days to come ${due} of follow-ups are due; ${day} is the fullest, with ${full}.`,
  snoozedOften: (n: number) => `${n} snoozed more than twice, and still open:`,
  titleTimes: (title: string, times: number) => `${title} (${times} times)`,
  neverOpened: (name: string, n: number) => `${name} has sent ${n} messages, of which you opened none.`,
  putOffOften: (title: string, n: number) => `“${title}” was put off ${n} times.`,
  mostlyLate: (name: string, late: number, of: number) =>
    `${name} was late with ${late} of ${of} answers, and you wait for another.`,
  idleRound: (at: string, useful: number, days: string) =>
    `The round at ${at} brought something on ${useful} of ${days}.`,
  dayCount: 'day',
  makeRule: (words: string) => `Make the rule “${words}”`,
  leaveIt: 'Leave the list',
  dropIt: 'Drop the follow-up',
  askTomorrow: 'Ask again tomorrow morning',
  doWithout: (at: string) => `Do without the round at ${at}`,
  remindMe: 'Remind me to look at it',
} as const
