import { sentences } from './sentences'

/** The parts of Setup, in order: where each is, its name, and what is in it. */
export const parts = [
  { id: 'week', name: sentences.yourWeek, about: sentences.mornings },
  { id: 'mail', name: sentences.mail, about: sentences.addressesAndTaking },
  { id: 'look', name: sentences.look, about: sentences.themeLinesText },
  { id: 'snoozing', name: sentences.snoozingAndSwiping, about: sentences.whatBringsBack },
  { id: 'follow-ups', name: sentences.followUps, about: sentences.stagesAndClosing },
  { id: 'labels', name: sentences.labels, about: sentences.namesColours },
  { id: 'places', name: sentences.places, about: sentences.whereOneCanBe },
  { id: 'combos', name: sentences.combos, about: sentences.chainsOfActions },
  { id: 'learned', name: sentences.whatEbbeHasLearned, about: sentences.whatMattersAndWhy },
  { id: 'junk', name: sentences.junk, about: sentences.junkDegrees },
  { id: 'calendar', name: sentences.calendarFiles, about: sentences.inAndOut },
  {
    id: 'inward',
    name: sentences.addressesIntoEbbe,
    about: sentences.mailThatBecomes,
  },
  { id: 'signing-in', name: sentences.signingIn, about: sentences.passwordCodesBrowsers },
  { id: 'people', name: sentences.people, about: sentences.whoIsInThisEbbe },
  { id: 'notices', name: sentences.whatShipsWithEbbe, about: sentences.packagesTheirNotices },
] as const

export type PartID = (typeof parts)[number]['id']
