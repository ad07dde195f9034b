// What lies above a screen, which is fetched together after it.
export { SignInAgain } from './again'
export { Boxes, FoldedBoxes, NoMember, TeamHead } from './boxes'
export { Counted, FoldedCounted } from './counted'
export { GateTray } from './gatetrays'
export { AskToLeave } from './leave'
export { Palette } from './palette'
export { RemindAgain } from './remindagain'
export { WriteDown } from './writedown'
