import { ahead } from '../../kit/ahead'

const all = () => import('./alltrays')
export const Begin = ahead(() => all().then((m) => m.Begin))
export const FirstSteps = ahead(() => all().then((m) => m.FirstSteps))
export const Zero = ahead(() => all().then((m) => m.Zero))
export const ArrangeTray = ahead(() => all().then((m) => m.ArrangeTray))
export const FreshStartTray = ahead(() => all().then((m) => m.FreshStartTray))
export const ListTray = ahead(() => all().then((m) => m.ListTray))
export const SitTray = ahead(() => all().then((m) => m.SitTray))
export const Sum = ahead(() => all().then((m) => m.Sum))
export const Strips = ahead(() => all().then((m) => m.Strips))
