import { team } from '../../api/base'
import { sentences } from './sentences'

const all = [
  { id: 'team', name: sentences.team, about: sentences.membersAndName },
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
  { id: 'teams', name: sentences.teams, about: sentences.boxesYouShare },
  { id: 'people', name: sentences.people, about: sentences.whoIsInThisEbbe },
  { id: 'notices', name: sentences.whatShipsWithEbbe, about: sentences.packagesTheirNotices },
] as const

export type PartID = (typeof all)[number]['id']

const ofTeam: PartID[] = ['team', 'mail', 'follow-ups', 'labels', 'learned', 'junk', 'calendar', 'notices']

/** The parts of Setup, in order: where each is, its name, and what is in it. What is one's own is in one's own box. */
export const parts = all.filter((p) => (team ? ofTeam.includes(p.id) : p.id !== 'team'))
