import { dateOf } from '../../api/times'
import { sentences } from './sentences'

/** How many there are of some days. */
export const countedOf = (from: string, to: string, n: string) =>
  sentences.countedOn(from === to ? dateOf(from) : sentences.fromTo(dateOf(from), dateOf(to)), n)
