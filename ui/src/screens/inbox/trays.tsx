import { ahead } from '../../frame/ahead'

const all = () => import('./alltrays')
export const ArrangeTray = ahead(() => all().then((m) => m.ArrangeTray))
export const FreshStartTray = ahead(() => all().then((m) => m.FreshStartTray))
export const ListTray = ahead(() => all().then((m) => m.ListTray))
export const SitTray = ahead(() => all().then((m) => m.SitTray))
export const Sum = ahead(() => all().then((m) => m.Sum))
