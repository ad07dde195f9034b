/** What is said here, in one place. */
export const sentences = {
  numbers: 'Numbers',
  loading: 'Loading the numbers',
  forYouAlone: 'What Ebbe claims, held against what you did. Nobody but you sees it.',
  whatMattersFirst: 'What matters first',
  notEnoughPairs: (weeks: number) =>
    `Nobody can say yet: in the last ${weeks} weeks too little of what came on one day was answered, and the rest was not.`,
  inOrder: (pairs: string, weeks: number, right: number, fixed: number) =>
    `In the last ${weeks} weeks there were ${pairs} pairs of messages of one day of which you acted on only one, or took the one below. ` +
    `In ${right} of 100 pairs it stood above the other. By kind and address alone it would have been ${fixed}.`,
  orderedBy: 'Ordered by',
  rightOf100: 'Right, of 100 pairs',
  whatEbbeHasLearned: 'What Ebbe has learned',
  kindAndAddress: 'Kind and address alone',
  chance: 'Chance',
  howItWasLearned: 'What it was learned from stands in',
  theEndOfTheDay: 'The end of the day, as foreseen',
  tooLittle: 'There is too little mail to say how good forecasts of the day’s end have been.',
  wasOffBy: (off: number, days: number, bias: number) =>
    `On the last ${days} days, what would have been foreseen at this hour was off by ${off} conversations in the median. ` +
    (bias === 0
      ? 'It was too high as often as too low.'
      : bias > 0
        ? `In the mean it foresaw ${bias} too many.`
        : `In the mean it foresaw ${-bias} too few.`),
} as const
