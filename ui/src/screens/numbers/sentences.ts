import { looking } from './sentences.ahead'
import { answering } from './sentences.answers'
import { digging } from './sentences.dig'
import { reviewing } from './sentences.review'
import { ruling } from './sentences.rules'

/** What is said here, in one place. */
export const sentences = {
  ...answering,
  ...looking,
  ...reviewing,
  ...digging,
  ...ruling,
  numbers: 'Numbers',
  loading: 'Loading the numbers',
  whichStretch: 'Of how many days',
  aDay: 'Day',
  aWeek: 'Week',
  aQuarter: 'Quarter',
  aYear: 'Year',
  todaySoFar: 'Today so far',
  weekSoFar: 'The week so far',
  quarterSoFar: 'The quarter so far',
  yearSoFar: 'The year so far',
  dayBefore: 'The day before',
  weekBefore: 'The week before',
  quarterBefore: 'The quarter before',
  yearBefore: 'The year before',
  dayAfter: 'The day after',
  weekAfter: 'The week after',
  quarterAfter: 'The quarter after',
  yearAfter: 'The year after',
  weekFrom: (date: string) => `Week from ${date}`,
  quarterOf: (n: number, year: string) => `Quarter ${n} of ${year}`,
  stillCounting: 'What you did before is still being counted: these numbers grow for a while.',
  nothingYet: 'Nothing has been decided yet. From the first decision on, what you do is counted here.',
  cameAndDecided: (came: string, decided: string) => `${came} came in, ${decided} were decided.`,
  halfOfYours: (seconds: number) => `Half of yours took ${seconds} s at most.`,
  heaviest: (day: string) => `Most were on ${day}.`,
  than: (n: string) => `As many days before, it was ${n}.`,
  youAlone: 'Everything here opens to what it counts, and nobody but you sees it.',
  sumsOfTheTeam: 'These are sums of the team, of nobody by themselves.',

  table: 'Table',
  picture: 'Picture',
  asATable: (name: string) => `${name}, as a table`,
  asAPicture: (name: string) => `${name}, as a picture`,
  asAFile: 'As a file (CSV)',

  whatBecameOfIt: 'What became of it',
  nothingDecided: 'Nothing was decided on these days.',
  mostOfIt: (all: string, flow: string, n: string) => `Of ${all}, most were ${flow}: ${n}.`,
  fromWhere: (from: string, to: string) => `${from} → ${to}`,
  cameFrom: 'Came from',
  became: 'Became',
  conversations: 'Conversations',
  archived: 'Archived',
  binned: 'Binned',
  answered: 'Answered',
  followedUp: 'Follow-up',
  snoozed: 'Snoozed',
  junk: 'Junk',
  byRules: 'By rules',
  otherwise: 'Otherwise',
  people: 'People',
  lists: 'Lists',
  notices: 'Notices',
  cameBack: 'Came back',

  todayAgainst: (day: string) => `Left to decide, today against your usual ${day}`,
  dayAgainst: (day: string) => `Left to decide, against your usual ${day}`,
  notYet: 'The day has not begun.',
  againstUsual: (is: number, usual: number, clock: string, weeks: number) =>
    `${is} at ${clock}; usually ${usual} (the middle of ${weeks} weeks).`,
  nowAgainstUsual: (is: number, usual: number, weeks: number) =>
    `${is} now; usually ${usual} at this time (the middle of ${weeks} weeks).`,
  fewSuchDays: (is: number) => `${is} now. Too few such days are known to say what is usual.`,
  time: 'Time',
  leftToDecide: 'Left to decide',
  usually: 'Usually',

  dayByDay: 'Day by day',
  weekByWeek: 'Seven days at a time',
  mostDecided: (day: string, n: string, weeks: boolean) =>
    `Most was decided ${weeks ? `in the seven days from ${day}` : `on ${day}`}: ${n}. Wide bars are what came in.`,
  bar: (day: string, came: number, decided: number) => `${day}: ${came} came in, ${decided} were decided`,

  daysThatEndedAtZero: 'Days that ended at zero',
  zeroDays: (days: number, of: number, run: number, longest: number) =>
    `${days} of ${of} working days; ${run} in a row up to now, ${longest} at most within a year. Days off and days away break no row.`,
  day: 'Day',
  leftInTheEvening: 'Left after the last decision',
  stillToCome: 'still to come',
  dayOff: 'day off',
  nothingDone: 'nothing done',
  zero: 'zero',
  left: (n: number) => `${n} left`,

  whenYouDecide: 'When you decide',
  mostAt: (day: string, hour: number, n: string) => `Mostly on ${day} from ${hour} to ${hour + 1} o’clock: ${n}.`,
  decidedAt: (day: string, hour: number) => `Decided on ${day}, ${hour} to ${hour + 1} o’clock`,
  at: (day: string, hour: number, n: string) => `${day}, ${hour} o’clock: ${n}`,

  howLongItTakes: 'How long a decision takes',
  halfWithin: (median: number, ninety: number, n: string) =>
    `Half within ${median} s, nine of ten within ${ninety} s (${n} that came within five minutes of the one before).`,
  tooFewDecisions: 'No two decisions came within five minutes of each other.',
  decision: 'Decision',
  counted: 'Counted',
  halfInSeconds: 'Half within (s)',
  nineOfTen: 'Nine of ten within (s)',
  seconds: (median: number, ninety: number) => `${median} s · ${ninety} s`,
  timed: (name: string) => `${name}, timed`,

  allNumbers: 'All numbers',
  whatIsCounted: 'What is counted',
  these: 'these',
  theOnesBefore: 'before',
  stood: (median: string, ninety: string) =>
    `Half of what was decided had been in the inbox for ${median} at most, nine of ten for ${ninety}.`,
  looks: (looks: number, first: number) =>
    `You opened each ${looks} times, and decided ${first} of 100 at first sight.`,
  sat: (sittings: string, minutes: number, steps: number, cut: number) =>
    `${sittings} took ${minutes} min for ${steps} decisions, with ${cut} interruptions.`,
  sitting: 'sitting',
  mail: 'Mail',
  cameIn: 'Came in',
  withRounds: 'with rounds',
  lookedEarly: 'Looked early',
  sent: 'Sent',
  junkCaught: 'Junk that was found',
  junkMissed: 'Junk you had to mark',
  junkWrong: 'Taken for junk wrongly',
  listsLeft: 'Lists left',
  decisions: 'Decided',
  byYou: 'By you',
  byClock: 'By the clock',
  byOthers: 'In other programs',
  atFirstSight: 'At first sight',
  snoozedFirst: 'Snoozed',
  snoozedAgain: 'Snoozed again',
  takenBack: 'Steps taken back',
  rulesTakenBack: 'Of rules, taken back',
  followUps: 'Follow-ups',
  made: 'Made',
  inTime: 'Finished in time',
  late: 'Finished late',
  moved: 'Moved to later',
  dropped: 'Dropped',
  waitsEnded: 'Answers that were waited for',
  askedAgain: 'Asked again',

  backToNumbers: '← Numbers',
  fromTo: (from: string, to: string) => `${from} to ${to}`,
  atLeast: (n: string) => `${n}, and more`,
  several: (n: string) => `${n} conversations`,
  nothingCounted: 'Nothing is counted here',
  whatIsTakenBack: 'What was taken back counts as not having been.',
  earlier: 'Earlier',

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
