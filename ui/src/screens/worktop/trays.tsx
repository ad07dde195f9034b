import { ahead } from '../../frame/ahead'

const all = () => import('./alltrays')
export const EventTray = ahead(() => all().then((m) => m.EventTray))
export const FlagTray = ahead(() => all().then((m) => m.FlagTray))
export const FollowUpTray = ahead(() => all().then((m) => m.FollowUpTray))
export const LabelTray = ahead(() => all().then((m) => m.LabelTray))
export const LeaveTray = ahead(() => all().then((m) => m.LeaveTray))
export const NoteTray = ahead(() => all().then((m) => m.NoteTray))
export const RenameTray = ahead(() => all().then((m) => m.RenameTray))
export const SnoozeTray = ahead(() => all().then((m) => m.SnoozeTray))
export const WaitTray = ahead(() => all().then((m) => m.WaitTray))
export const WriteTray = ahead(() => all().then((m) => m.WriteTray))
