import { ahead } from '../kit/ahead'

const all = () => import('./alltrays')
export const AskToLeave = ahead(() => all().then((m) => m.AskToLeave))
export const GateTray = ahead(() => all().then((m) => m.GateTray))
export const Palette = ahead(() => all().then((m) => m.Palette))
export const RemindAgain = ahead(() => all().then((m) => m.RemindAgain))
export const SignInAgain = ahead(() => all().then((m) => m.SignInAgain))
export const WriteDown = ahead(() => all().then((m) => m.WriteDown))
