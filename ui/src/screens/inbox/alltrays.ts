// The trays of the inbox, and what stands there instead of a queue, which are fetched together.
export { ArrangeTray } from './arrange'
export { Begin, FirstSteps } from './begin'
export { FreshStartTray } from './fresh'
export { ListTray } from './list'
export { SitTray, Sum } from './sit'
export { Zero } from './zero'
export { Strips } from './strips'
