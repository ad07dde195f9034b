import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useEffect } from 'react'
import { BrowserRouter, Navigate, Route, Routes, useParams } from 'react-router'
import { get, setToken } from './api/client'
import { useSession } from './api/queries'
import { setNow, setZone } from './api/times'
import { Frame } from './frame/frame'
import { Empty, Failed } from './kit/kit'
import { Loading } from './kit/loading'
import { Door } from './screens/door/door'
import { Find } from './screens/find/find'
import { Inbox } from './screens/inbox/inbox'
import { Opened } from './screens/worktop/opened'

// What is not needed for the inbox is fetched when it is first opened.
const Senders = lazy(() => import('./screens/senders/senders').then((m) => ({ default: m.Senders })))
const Keys = lazy(() => import('./screens/keys/keys').then((m) => ({ default: m.Keys })))
const FollowUps = lazy(() => import('./screens/followups/followups').then((m) => ({ default: m.FollowUps })))
const OneFollowUp = lazy(() => import('./screens/followups/one').then((m) => ({ default: m.OneFollowUp })))
const OneByOne = lazy(() => import('./screens/followups/one').then((m) => ({ default: m.OneByOne })))
const CloseDay = lazy(() => import('./screens/followups/closing').then((m) => ({ default: m.CloseDay })))
const FinishedLog = lazy(() => import('./screens/followups/log').then((m) => ({ default: m.FinishedLog })))
const WaitingScreen = lazy(() => import('./screens/waiting/waiting').then((m) => ({ default: m.WaitingScreen })))
const Writing = lazy(() => import('./screens/write/write').then((m) => ({ default: m.Writing })))
const AccountsScreen = lazy(() => import('./screens/accounts/accounts').then((m) => ({ default: m.AccountsScreen })))
const Week = lazy(() => import('./screens/calendar/week').then((m) => ({ default: m.Week })))
const Later = lazy(() => import('./screens/later/later').then((m) => ({ default: m.Later })))
const DeliveryScreen = lazy(() => import('./screens/delivery/delivery').then((m) => ({ default: m.DeliveryScreen })))
const HistoryScreen = lazy(() => import('./screens/history/history').then((m) => ({ default: m.HistoryScreen })))
const Setup = lazy(() => import('./screens/setup/setup').then((m) => ({ default: m.Setup })))

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
  if (error) return <Failed error={error} again={() => void refetch()} />
  if (!session) return <Loading what="Loading Ebbe" />
  if (session.state !== 'in') return <Door session={session} />
  return (
    <BrowserRouter>
      <Routes>
        <Route element={<Frame />}>
          <Route index element={<Inbox />} />
          <Route path="c/:id" element={<Opened />} />
          <Route path="mid/*" element={<ByMessageID />} />
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
          <Route path="history" element={<HistoryScreen />} />
          <Route path="setup" element={<Setup />} />
          <Route
            path="*"
            element={<Empty title="There is nothing at this address">Choose a place on the left.</Empty>}
          />
        </Route>
      </Routes>
    </BrowserRouter>
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
