/** What is said here, in one place. */
export const sentences = {
  somethingWentWrongTry: 'Something went wrong. Try again.',
  ebbe: 'ebbe',
  theSkagvikTideMuseum: 'The Skagvik Tide Museum',
  youAreSolveiArnkvist:
    'You are Solvei Arnkvist, who prepares the exhibition “The Machine That Knew the Sea”. All people and all mail here are made up.',
  openTheMuseumsInbox: 'Open the museum’s inbox',
  yourInboxEmptyOnce: 'Your inbox, empty once a day',
  signIn: 'Sign in',
  ebbeRunsOnThis: 'Ebbe runs on this machine and keeps everything here.',
  yourName: 'Your name',
  yourMailAddress: 'Your mail address',
  aPasswordOfAt: 'A password of at least 10 characters',
  password: 'Password',
  begin: 'Begin',
} as const
