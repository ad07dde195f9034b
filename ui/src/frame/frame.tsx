import {
  CalendarDotsIcon,
  ClockCounterClockwiseIcon,
  FlagPennantIcon,
  HourglassIcon,
  MagnifyingGlassIcon,
  MailboxIcon,
  PenNibIcon,
  SlidersHorizontalIcon,
  SunHorizonIcon,
  TrayIcon,
} from '@phosphor-icons/react'
import { memo, type ReactNode, type RefObject, Suspense, useEffect, useLayoutEffect, useRef, useState } from 'react'
import { ErrorBoundary } from 'react-error-boundary'
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router'
import { team } from '../api/base'
import { told } from '../api/client'
import { digits } from '../api/digits'
import { afterPaint } from '../api/paint'
import { client, useBoxes, useCards, useCounts, useDate, useLeft } from '../api/queries'
import { useLost, useMe } from '../api/session'
import { date, now, plural } from '../api/times'
import { useAhead } from '../kit/ahead'
import { Button, TextButton } from '../kit/button'
import { cx } from '../kit/cx'
import { arrive, Heading } from '../kit/heading'
import { Loading } from '../kit/loading'
import { Notice } from '../kit/notice'
import { Tips } from '../kit/tip'
import { Toast, ToastPlace, Toasts } from '../kit/toast'
import { DraftsProvider, newMessage } from '../screens/write/drafts'
import { Commands, FRAME, useCommands } from './commands'
import { Dayline } from './dayline'
import { DeskProvider, useDesk, useStanding, useTold } from './desk'
import { Gate, GateLine, GateProvider, useGate } from './gate'
import { LeavingProvider, useLeaving } from './leaving'
import { sentences } from './sentences'
import {
  Boxes,
  Cards,
  Counted,
  Dial,
  GateTray,
  More,
  NoMember,
  Palette,
  SignInAgain,
  TeamHead,
  Whereabouts,
  WriteDown,
} from './trays'

export function Frame() {
  const session = useMe()
  return (
    <Commands own={session.habits.keys ?? {}}>
      <DeskProvider>
        <Toasts>
          <DraftsProvider>
            <GateProvider>
              <LeavingProvider>
                <Inside />
              </LeavingProvider>
            </GateProvider>
          </DraftsProvider>
        </Toasts>
      </DeskProvider>
    </Commands>
  )
}

function Inside() {
  const [palette, setPalette] = useState(false)
  const [writing, setWriting] = useState(false)
  const navigate = useNavigate()
  const desk = useDesk()
  const session = useMe()
  const main = useRef<HTMLElement>(null)
  const leave = useLeaving()
  const gate = useGate()
  const lost = useLost()
  useAhead()
  useCommands(
    [
      { id: 'palette', run: () => setPalette(true) },
      { id: 'take-back', run: () => void desk.takeBack() },
      { id: 'again', run: () => void desk.again() },
      { id: 'go-day', run: () => navigate('/day') },
      { id: 'go-inbox', run: () => navigate('/') },
      { id: 'go-senders', run: () => navigate('/senders') },
      { id: 'go-followups', run: () => navigate('/follow-ups') },
      { id: 'go-waiting', run: () => navigate('/waiting') },
      { id: 'go-calendar', run: () => navigate('/calendar') },
      { id: 'go-log', run: () => navigate('/log') },
      { id: 'close-day', run: () => navigate('/close-day') },
      { id: 'write-down', run: () => setWriting(true) },
      { id: 'go-later', run: () => navigate('/later') },
      { id: 'go-delivery', run: () => navigate('/delivery') },
      { id: 'go-find', run: () => navigate('/find') },
      { id: 'go-numbers', run: () => navigate('/numbers') },
      { id: 'go-writing', run: () => navigate('/writing') },
      { id: 'go-accounts', run: () => navigate('/accounts') },
      {
        id: 'new-message',
        run: () =>
          void newMessage()
            .then((n) => navigate('/writing/' + n))
            .catch((e: unknown) => desk.say({ text: told(e), wrong: true })),
      },
      { id: 'go-history', run: () => navigate('/history') },
      { id: 'go-setup', run: () => navigate('/setup') },
      { id: 'go-rules', run: () => navigate('/rules') },
      { id: 'go-facts', run: () => navigate('/facts') },
      { id: 'go-junk', run: () => navigate('/junk') },
      { id: 'go-subscriptions', run: () => navigate('/subscriptions') },
      { id: 'keys', run: () => navigate('/keys') },
      { id: 'sign-out', run: () => void leave() },
    ],
    FRAME,
  )
  return (
    <div className="frame-grid">
      <Title />
      <SkipLink to={main} />
      <header
        className={cx(
          'col-span-full grid grid-cols-[76px_132px_minmax(0,1fr)_auto] items-center bg-frame text-white',
          'max-[700px]:grid-cols-[auto_1fr_auto] max-[700px]:px-3 max-[700px]:py-1.5',
        )}
      >
        <Mark />
        {team ? (
          <Suspense fallback={<span />}>
            <TeamHead />
          </Suspense>
        ) : (
          <Today name={session.name} />
        )}
        <Dayline />
        <Count demo={session.demo} />
        <GateLine />
      </header>
      <Rail />
      <main id="main" ref={main} tabIndex={-1} className="flex min-h-0 min-w-0 flex-col outline-none">
        {lost && (
          <Suspense fallback={null}>
            <SignInAgain />
          </Suspense>
        )}
        <Suspense fallback={null}>
          <Cards />
        </Suspense>
        <div className="relative min-h-0 flex-1">
          <Screen />
          <Suspense fallback={null}>
            {writing && <WriteDown close={() => setWriting(false)} />}
            {palette && <Palette close={() => setPalette(false)} />}
            {gate.tray && <GateTray tray={gate.tray} />}
          </Suspense>
        </div>
        <ToastPlace usual />
        <Said />
      </main>
      <Tips />
    </div>
  )
}

/**
 * The screen at this address. What goes wrong in it stays in it: the frame stands, and going elsewhere or trying again
 * begins anew, with what was typed.
 */
function Screen() {
  const at = useLocation().pathname
  if (useNoMember())
    return (
      <Suspense fallback={<Loading />}>
        <NoMember />
      </Suspense>
    )
  return (
    <ErrorBoundary resetKeys={[at]} fallbackRender={({ resetErrorBoundary }) => <Broken again={resetErrorBoundary} />}>
      <Suspense fallback={<Loading />}>
        <Outlet />
      </Suspense>
    </ErrorBoundary>
  )
}

function Broken({ again }: { again: () => void }) {
  return (
    <div className="px-[22px] py-5">
      <Heading>{sentences.thisScreenFailed}</Heading>
      <Notice className="mt-2">{sentences.whatYouTypedIsKept}</Notice>
      <div className="mt-3 flex gap-2">
        <Button
          autoFocus
          onClick={() => {
            client.removeQueries({ type: 'inactive' }) // what it could not be drawn from is read anew
            again()
          }}
        >
          {sentences.tryAgain}
        </Button>
        <Button quiet onClick={() => location.reload()}>
          {sentences.loadThePageAgain}
        </Button>
      </div>
    </div>
  )
}

/** What was just done, in a sentence. */
function Said() {
  const { takeBack } = useDesk()
  const { notice, read } = useTold()
  const [shown, setShown] = useState({ notice, n: 0 })
  if (shown.notice !== notice) setShown({ notice, n: shown.n + 1 })
  if (!notice) return null
  return (
    <Toast key={shown.n} wrong={notice.wrong} onEnd={() => read(notice)}>
      {notice.text} {notice.undo && <TextButton onClick={() => void takeBack()}>{sentences.takeBack}</TextButton>}
      {notice.path && (
        <Link
          to={notice.path}
          reloadDocument={notice.away}
          className="font-semibold text-accent underline"
          onClick={() => read(notice)}
        >
          {sentences.open}
        </Link>
      )}
      {notice.wrong && (
        <TextButton tone="late" onClick={() => read(notice)}>
          {sentences.close}
        </TextButton>
      )}
    </Toast>
  )
}

const screens: Record<string, string> = {
  '': sentences.inbox,
  day: sentences.today,
  c: sentences.conversationTitle,
  'follow-ups': sentences.followUps,
  'one-by-one': sentences.oneByOne,
  'close-day': sentences.closeTheDay,
  log: sentences.finished,
  waiting: sentences.waiting,
  writing: sentences.writing,
  accounts: sentences.accounts,
  calendar: sentences.week,
  senders: sentences.senders,
  keys: sentences.theKeys,
  later: sentences.later,
  delivery: sentences.delivery,
  find: sentences.find,
  files: sentences.files,
  numbers: sentences.numbers,
  activity: sentences.activity,
  history: sentences.history,
  setup: sentences.setup,
}

/** The title of the page: which screen it is, and what is left to decide. Going to another one moves the focus there. */
function Title() {
  const screen = useLocation().pathname.split('/')[1]
  const left = useLeft() ?? 0
  useEffect(() => {
    const name = screens[screen] ?? 'Ebbe'
    // The browser takes a millisecond for a title, which nobody looks at while a key is answered.
    afterPaint(() => {
      document.title = `${name}${left ? sentences.leftToDecideJoined(digits(left)) : ''} · Ebbe`
    })
  }, [screen, left])
  useLayoutEffect(arrive, [screen])
  return null
}

/** The first stop of Tab: past the frame to what the screen begins with. */
const SkipLink = ({ to }: { to: RefObject<HTMLElement | null> }) => (
  <a
    href="#main"
    className="sr-only rounded-[9px] bg-sand-0 px-3.5 py-2 font-semibold text-ink-900 focus:not-sr-only focus:absolute focus:top-2 focus:left-2 focus:z-50"
    onClick={(e) => {
      e.preventDefault()
      const find = (what: string) => to.current?.querySelector<HTMLElement>(what)
      ;(find('[role=listbox][tabindex]') ?? find('h1[tabindex]') ?? to.current)?.focus()
    }}
  >
    {sentences.skipToWhatThis}
  </a>
)

export const Mark = () => (
  <Link
    to="/day"
    aria-label={sentences.theDay}
    title={sentences.theDay}
    className="relative pb-[7px] text-center text-[21px] leading-none font-bold tracking-[-.03em] max-[700px]:px-2"
  >
    {sentences.ebbe}
    <svg
      width="38"
      height="7"
      viewBox="0 0 38 7"
      className="absolute -bottom-[5px] left-1/2 -translate-x-1/2"
      aria-hidden
    >
      <path
        d="M1 4c5 0 5-3 9-3s4 4 9 4 5-4 9-4 4 3 9 3"
        stroke="var(--sea)"
        strokeWidth="2"
        fill="none"
        strokeLinecap="round"
      />
    </svg>
  </Link>
)

function Today({ name }: { name: string }) {
  useDate() // turns with the clock of the program
  return (
    <div className="min-w-0 max-[700px]:pl-2">
      <b className="block text-[16px] tracking-[-.01em] whitespace-nowrap">{date(now())}</b>
      <Suspense fallback={<span className="text-[12px] opacity-80">{name.split(' ')[0]}</span>}>
        <Whereabouts name={name.split(' ')[0]} />
      </Suspense>
    </div>
  )
}

/** Whether the box of this address is none that the user works in. */
function useNoMember() {
  const { data } = useBoxes()
  return data !== undefined && !data.some((b) => b.here)
}

function Count({ demo }: { demo: boolean }) {
  const left = useLeft()
  const { live, waiting } = useStanding()
  const noMember = useNoMember() // then nothing is heard or counted, and nothing is wrong with the line
  return (
    <div className="flex items-center justify-end gap-3.5 pr-[18px] pl-2 max-[700px]:pr-0">
      {!noMember && (
        <>
          <span className="text-[34px] leading-none font-[650] tracking-[-.04em] tabular-nums" data-testid="left">
            {left === undefined ? '…' : digits(left)}
          </span>
          <span className="text-[11px] leading-tight opacity-80">
            {sentences.leftTo}
            <br />
            {sentences.decide}
          </span>
        </>
      )}
      <Gate />
      {(!live || waiting > 0) && !noMember && (
        <span
          role="status"
          className="rounded-[18px] bg-coral-100 px-2.5 py-1 text-[12px] font-semibold text-coral-600"
        >
          {sentences.noConnection}
          {waiting > 0 && `, ${plural(waiting, sentences.stepWaits, sentences.stepsWait)}`}
        </span>
      )}
      {demo && (
        <Suspense fallback={null}>
          <Dial />
        </Suspense>
      )}
    </div>
  )
}

const icons = {
  inbox: <TrayIcon size={20} />,
  followUps: <FlagPennantIcon size={20} />,
  waiting: <HourglassIcon size={20} />,
  writing: <PenNibIcon size={20} />,
  later: <SunHorizonIcon size={20} />,
  week: <CalendarDotsIcon size={20} />,
  delivery: <MailboxIcon size={20} />,
  find: <MagnifyingGlassIcon size={20} />,
  history: <ClockCounterClockwiseIcon size={20} />,
  setup: <SlidersHorizontalIcon size={20} />,
}

function Rail() {
  const line = useCounts()
  const cards = useCards().data
  return (
    <nav
      aria-label={sentences.places}
      className={cx(
        'rail flex flex-col items-stretch gap-0.5 border-r border-sand-200 bg-sand-100 px-1.5 py-2',
        'max-[700px]:order-last max-[700px]:flex-row max-[700px]:border-t',
        'max-[700px]:border-r-0 max-[700px]:py-0.5',
      )}
    >
      <Place to="/" name={sentences.inbox} icon={icons.inbox} count={line?.left} />
      <Place
        to="/follow-ups"
        name={sentences.followUps}
        icon={icons.followUps}
        count={line?.followUps}
        urgent={!!cards?.count}
      />
      <Place to="/waiting" name={sentences.waiting} icon={icons.waiting} count={line?.waiting} />
      <Place
        fold
        to="/writing"
        name={sentences.writing}
        icon={icons.writing}
        count={line?.stuck}
        urgent={!!line?.stuck}
      />
      <Place to="/later" name={sentences.later} icon={icons.later} count={line?.later} />
      <Place fold to="/calendar" name={sentences.week} icon={icons.week} />
      <Place fold to="/delivery" name={sentences.delivery} icon={icons.delivery} />
      <Place to="/find" name={sentences.find} icon={icons.find} />
      <Suspense fallback={null}>
        <Counted />
      </Suspense>
      <Suspense fallback={null}>
        <Boxes />
      </Suspense>
      <span className="flex-1 max-[700px]:hidden" />
      <Place fold to="/history" name={sentences.history} icon={icons.history} />
      <Place fold to="/setup" name={sentences.setup} icon={icons.setup} />
      <Suspense fallback={<span className="max-[700px]:flex-1 min-[701px]:hidden" />}>
        <More stuck={!!line?.stuck} />
      </Suspense>
    </nav>
  )
}

export const Place = memo(function Place({
  fold,
  to,
  name,
  icon,
  count,
  urgent,
}: {
  fold?: boolean // has no room on a narrow screen
  to: string
  name: string
  icon: ReactNode
  count?: number
  urgent?: boolean
}) {
  return (
    <NavLink
      to={to}
      end={to === '/'}
      className={({ isActive }) =>
        cx(
          'relative flex flex-col items-center gap-[3px] rounded-[10px] pt-2 pb-[7px] text-[11px]',
          fold ? 'max-[700px]:hidden' : 'max-[700px]:min-w-0 max-[700px]:flex-1 max-[700px]:pt-1.5',
          isActive
            ? 'bg-sand-0 font-[650] text-tide-800 shadow-[inset_3px_0_0_var(--fill)] max-[700px]:shadow-[inset_0_3px_0_var(--fill)]'
            : 'text-ink-500 hover:bg-sand-200/60',
        )
      }
    >
      {!!count && (
        <span
          className={cx(
            'absolute top-1 right-1.5 text-[10.5px] font-bold max-[700px]:top-0 max-[700px]:right-auto',
            'max-[700px]:left-[calc(50%+9px)]',
            urgent ? 'text-coral-600' : 'text-ink-700',
          )}
        >
          {count > 999 ? '999+' : count}
        </span>
      )}
      {icon}
      <span className="max-[700px]:text-[10px] max-[700px]:whitespace-nowrap">{name}</span>
    </NavLink>
  )
})
