/** What is said here, in one place. */
export const sentences = {
  deciding: 'Deciding',
  inAList: 'In a list',
  aFile: 'A file',
  choosingMany: 'Choosing many',
  sitting: 'Sitting',
  followUps: 'Follow-ups',
  goingPlaces: 'Going places',
  everywhere: 'Everywhere',
  isTheKeyOf: (keyName: string, name: string) =>
    `“${keyName}” is the key of your combo “${name}”. Change that in Setup, or choose another key.`,
  isTheKeyOfNamed: (keyName: string, name: string) =>
    `“${keyName}” is the key of “${name}”, which cannot be changed. Choose another key.`,
  isNowTheKeyOf: (keyName: string, name: string) => `“${keyName}” is the key of “${name}”.`,
  theKeys: 'The keys',
  allAsUsual: 'All as usual',
  print: 'Print',
  chooseChangeAndPress: 'Choose “change” and press the new key. While you type, only Escape is a key.',
  pressAKey: 'press a key',
  asUsual: 'as usual',
  changeTheKeyOf: (name: string) => `Change the key of: ${name}`,
  leaveIt: 'cancel',
  change: 'change',
  exchangeTheTwo: 'Exchange the two',
  orPressAnother: 'or press another.',
  timesInWords: 'Times in words',
  whereATimeIs:
    'Wherever Ebbe asks for a time it reads words, and shows what they mean before you press Enter. Some of them, and what they mean now:',
  lineNeedsNo:
    'A follow-up is written in one line: “call the plumber tomorrow at 9 @workshop !”, “water the moss wall every 2 weeks”. ' +
    'Each thing it was taken for stands below it, and can be left in the title.',
} as const
