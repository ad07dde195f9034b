import { useQuery } from '@tanstack/react-query'
import { type ComponentType, lazy, Suspense, useEffect } from 'react'
import { BrowserRouter, Navigate, Route, Routes, useParams } from 'react-router'
import { keptUnder, root } from './api/base'
import { get, setToken } from './api/client'
import { useSession } from './api/session'
import { setNow, setZone } from './api/times'
import { fetched } from './kit/fetched'
import { Frame } from './frame/frame'
import { KeptProvider } from './frame/kept'
import { Empty, Failed } from './kit/kit'
import { Loading } from './kit/loading'
import { Inbox } from './screens/inbox/inbox'
import { Opened } from './screens/worktop/opened'

// What is not needed for the inbox is fetched when it is first opened.
const later = <P = object,>(screen: () => Promise<ComponentType<P>>) =>
  lazy(async () => ({ default: await fetched(screen) }))
const Senders = later(() => import('./screens/senders/senders').then((m) => m.Senders))
const Keys = later(() => import('./screens/keys/keys').then((m) => m.Keys))
const FollowUps = later(() => import('./screens/followups/followups').then((m) => m.FollowUps))
const OneFollowUp = later(() => import('./screens/followups/one').then((m) => m.OneFollowUp))
const OneByOne = later(() => import('./screens/followups/one').then((m) => m.OneByOne))
const CloseDay = later(() => import('./screens/followups/closing').then((m) => m.CloseDay))
const FinishedLog = later(() => import('./screens/followups/log').then((m) => m.FinishedLog))
const WaitingScreen = later(() => import('./screens/waiting/waiting').then((m) => m.WaitingScreen))
const Writing = later(() => import('./screens/write/write').then((m) => m.Writing))
const AccountsScreen = later(() => import('./screens/accounts/accounts').then((m) => m.AccountsScreen))
const Week = later(() => import('./screens/calendar/week').then((m) => m.Week))
const Later = later(() => import('./screens/later/later').then((m) => m.Later))
const Day = later(() => import('./screens/day/day').then((m) => m.Day))
const DeliveryScreen = later(() => import('./screens/delivery/delivery').then((m) => m.DeliveryScreen))
const Mine = later(() => import('./screens/mine/mine').then((m) => m.Mine))
const ActivityScreen = later(() => import('./screens/activity/activity').then((m) => m.ActivityScreen))
const HistoryScreen = later(() => import('./screens/history/history').then((m) => m.HistoryScreen))
const Door = later(() => import('./screens/door/door').then((m) => m.Door))
const Find = later(() => import('./screens/find/find').then((m) => m.Find))
const Files = later(() => import('./screens/files/files').then((m) => m.Files))
const FilesOfPerson = later(() => import('./screens/files/files').then((m) => m.FilesOfPerson))
const Numbers = later(() => import('./screens/numbers/numbers').then((m) => m.Numbers))
const Subscriptions = later(() => import('./screens/subscriptions/subscriptions').then((m) => m.Subscriptions))
const ToCome = later(() => import('./screens/facts/facts').then((m) => m.ToCome))
const Person = later(() => import('./screens/person/person').then((m) => m.Person))
const Junk = later(() => import('./screens/junk/junk').then((m) => m.Junk))
const Rules = later(() => import('./screens/rules/rules').then((m) => m.Rules))
const Setup = later(() => import('./screens/setup/setup').then((m) => m.Setup))

// Only while Ebbe is being built: it does not ship.
const Kit = import.meta.env.DEV ? lazy(() => import('./kit/page').then((m) => ({ default: m.KitPage }))) : null

export function App() {
  const { data: session, error, refetch } = useSession()
  if (session) {
    setToken(session.csrf)
    if (session.state === 'in') setZone(session.week.zone, session.week.twelveHour)
  }
  useEffect(() => {
    if (session) setNow(session.now)
  }, [session])
  useTheme(session?.theme ?? '')
  if (Kit && location.pathname === '/kit')
    return (
      <Suspense fallback={<Loading />}>
        <Kit />
      </Suspense>
    )
  if (!session && error) return <Failed error={error} again={() => void refetch()} />
  if (!session) return <Loading what="Loading Ebbe" />
  if (session.state !== 'in' || location.pathname === '/invited')
    return (
      <Suspense fallback={<Loading what="Loading Ebbe" />}>
        <Door session={session} />
      </Suspense>
    )
  return (
    <KeptProvider name={keptUnder(session.keep)} all={session.keep}>
      <BrowserRouter basename={root || '/'}>
        <Routes>
          <Route element={<Frame />}>
            <Route index element={<Inbox />} />
            <Route path="c/:id" element={<Opened />} />
            <Route path="mid/*" element={<ByMessageID />} />
            <Route path="day" element={<Day />} />
            <Route path="follow-ups" element={<FollowUps />} />
            <Route path="follow-ups/:uid" element={<OneFollowUp />} />
            <Route path="one-by-one" element={<OneByOne />} />
            <Route path="close-day" element={<CloseDay />} />
            <Route path="log" element={<FinishedLog />} />
            <Route path="waiting" element={<WaitingScreen />} />
            <Route path="writing" element={<Writing />} />
            <Route path="writing/:id" element={<Writing />} />
            <Route path="accounts" element={<AccountsScreen />} />
            <Route path="calendar" element={<Week />} />
            <Route path="senders" element={<Senders />} />
            <Route path="keys" element={<Keys />} />
            <Route path="later" element={<Later />} />
            <Route path="delivery" element={<DeliveryScreen />} />
            <Route path="find" element={<Find />} />
            <Route path="files/:id" element={<Files />} />
            <Route path="numbers/*" element={<Numbers />} />
            <Route path="activity" element={<ActivityScreen />} />
            <Route path="mine" element={<Mine />} />
            <Route path="history" element={<HistoryScreen />} />
            <Route path="subscriptions" element={<Subscriptions />} />
            <Route path="rules/:id?" element={<Rules />} />
            <Route path="facts" element={<ToCome />} />
            <Route path="person/:address" element={<Person />} />
            <Route path="person/:address/files" element={<FilesOfPerson />} />
            <Route path="junk" element={<Junk />} />
            <Route path="setup/:part?" element={<Setup />} />
            <Route
              path="*"
              element={<Empty title="There is nothing at this address">Choose a place on the left.</Empty>}
            />
          </Route>
        </Routes>
      </BrowserRouter>
    </KeptProvider>
  )
}

/** A link by Message-ID (RFC 2392): it finds the message wherever it has gone. */
function ByMessageID() {
  const mid = useParams()['*'] ?? ''
  const { data, error, refetch } = useQuery({
    queryKey: ['mid', mid],
    queryFn: () => get<{ conversation: number }>('/mid/' + encodeURIComponent(mid)),
  })
  if (error) return <Failed error={error} again={() => void refetch()} />
  return data ? <Navigate to={'/c/' + data.conversation} replace /> : <Loading what="Looking for the message" />
}

function useTheme(theme: string) {
  useEffect(() => {
    const dark = window.matchMedia('(prefers-color-scheme: dark)')
    const apply = () =>
      document.documentElement.classList.toggle('dark', theme === 'dark' || (theme === '' && dark.matches))
    apply()
    dark.addEventListener('change', apply)
    return () => dark.removeEventListener('change', apply)
  }, [theme])
}
