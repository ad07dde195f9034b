// The trays of the inbox, and what stands there after a sitting, which are fetched together.
export { ArrangeTray } from './arrange'
export { FreshStartTray } from './fresh'
export { ListTray } from './list'
export { SitTray, Sum } from './sit'
