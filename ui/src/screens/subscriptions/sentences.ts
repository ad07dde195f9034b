/** What is said here, in one place. */
export const sentences = {
  subscriptions: 'Subscriptions',
  setup: 'Setup',
  loading: 'Loading the subscriptions',
  whatComesFrom:
    'Lists and newsletters of the last 400 days, those that send most first, and how much of them you open.',
  noLists: 'No lists',
  listsAppear: 'A list or newsletter appears here once something has come from it.',
  list: 'List',
  aMonth: 'A month',
  opened: 'Opened',
  toTheEnd: 'To the end',
  since: 'Since',
  size: 'Size',
  ways: 'Leaving',
  choose: (name: string) => `Choose ${name}`,
  openedOf: (opened: string, of: string) => `${opened} of ${of}`,
  answered: (n: string) => `, ${n} answered`,
  byRequest: 'one click',
  byMail: 'by mail',
  onItsPage: 'on its page',
  doesNotSay: 'does not say',
  left: (when: string) => `left ${when}`,
  stillSends: (n: number) => `still sends (${n})`,
  chosen: (n: number) => `${n} chosen`,
  leaveThem: 'Leave the chosen',
  neverAgain: 'Never again',
  chooseSome: 'Choose lists to leave them or to put them away for good.',
  leaving: (n: number, of: number) => `Leaving ${n} of ${of}…`,
  outcome: (left: number, failed: number, byHand: number) =>
    [
      left > 0 && `Left: ${left}.`,
      failed > 0 && `${failed} could not be left; you are still on them. Try again later.`,
      byHand > 0 && `${byHand} can only be left on their own page, or do not say how.`,
    ]
      .filter(Boolean)
      .join(' '),
  kb: (n: number) => `${n} kB`,
  mb: (n: string) => `${n} MB`,
  binAll: 'Bin all that has come',
  onceAWeek: 'Once a week, together…',
  haveItCome: 'Have it come so',
  eachAsOneSlip:
    'What each of them sends is held until then, and lies in the inbox as one slip, in a stream of its own.',
  movingOf: (n: number, of: number) => `${n} of ${of}…`,
  comesTogether: (n: number) =>
    (n === 1 ? 'It comes' : `All ${n} come`) + ' at that time from now on, as one slip. Delivery has the stream.',
}
