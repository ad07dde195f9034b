export const sentences = {
  loading: 'What lies in junk',
  junk: 'Junk',
  nothingInJunk: 'Nothing in junk',
  whatIsJunk:
    'What is junk is put here with its reason, to be looked through now and then. Ctrl Delete calls a conversation junk, and Ebbe learns from it.',
  howStrict: 'How strict?',
  perhaps: 'Perhaps no junk',
  likely: 'Most likely junk',
  certain: 'Without doubt',
  leastCertainFirst: 'Least certain first. 9: not junk.',
  allJunk: (n: number) => `All junk: bin ${n}`,
  ofJunk: (n: number, total: number) => `${n} of ${total} in junk`,
} as const
