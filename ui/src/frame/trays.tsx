import { ahead } from '../kit/ahead'

const all = () => import('./alltrays')
export const AskToLeave = ahead(() => all().then((m) => m.AskToLeave))
export const Boxes = ahead(() => all().then((m) => m.Boxes))
export const Dial = ahead(() => all().then((m) => m.Dial))
export const More = ahead(() => all().then((m) => m.More))
export const NoMember = ahead(() => all().then((m) => m.NoMember))
export const TeamHead = ahead(() => all().then((m) => m.TeamHead))
export const Cards = ahead(() => import('./cards').then((m) => m.Cards)) // by themselves, as they are seen at once
export const Counted = ahead(() => all().then((m) => m.Counted))
export const GateTray = ahead(() => all().then((m) => m.GateTray))
export const Palette = ahead(() => all().then((m) => m.Palette))
export const RemindAgain = ahead(() => all().then((m) => m.RemindAgain))
export const SignInAgain = ahead(() => all().then((m) => m.SignInAgain))
export const Whereabouts = ahead(() => all().then((m) => m.Whereabouts))
export const WriteDown = ahead(() => all().then((m) => m.WriteDown))
