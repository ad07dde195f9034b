import { type ReactNode } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Settings } from '../../api/desk'
import { useSettings } from '../../api/queries'
import { useMe } from '../../api/session'
import { here } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { Keeps } from '../../frame/kept'
import { useLeaving } from '../../frame/leaving'
import { TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Combos } from './combos'
import { Files } from './files'
import { Inward } from './inward'
import { JunkPart } from './junk'
import { Labels } from './labels'
import { Learned } from './learned'
import { Look } from './look'
import { Mail } from './mail'
import { Notices } from './notices'
import { type PartID, parts } from './parts'
import { People } from './people'
import { Places } from './places'
import { sentences } from './sentences'
import { SigningIn } from './signingin'
import { Snoozing } from './snoozing'
import { Team } from './team'
import { Teams } from './teams'
import { Week } from './week'
import { Work } from './work'

const shown: Record<PartID, (settings: Settings) => ReactNode> = {
  week: (s) => <Week settings={s} />,
  mail: (s) => <Mail settings={s} />,
  look: (s) => <Look settings={s} />,
  snoozing: (s) => <Snoozing settings={s} />,
  'follow-ups': (s) => <Work settings={s} />,
  labels: () => <Labels />,
  places: () => <Places />,
  combos: () => <Combos />,
  learned: () => <Learned />,
  junk: (s) => <JunkPart settings={s} />,
  calendar: () => <Files />,
  inward: () => <Inward />,
  'signing-in': () => <SigningIn />,
  team: () => <Team />,
  teams: () => <Teams />,
  people: () => <People />,
  notices: () => <Notices />,
}

const line = 'block rounded-[9px] px-3 py-[3px] hover:bg-sand-100 max-[700px]:py-1.5'

/** What the user chooses for themselves, by parts, with their index beside them; each choice is saved as it is made. */
export function Setup() {
  const { part } = useParams()
  const session = useMe()
  const { data, error, refetch } = useSettings()
  const leave = useLeaving()
  const navigate = useNavigate()
  const theirs = parts.filter((p) => p.id !== 'people' || session.admin)
  const on = theirs.find((p) => p.id === part)?.id // none: where it is narrow, the index alone
  const at = on ?? theirs[0]!.id
  const go = (by: number) => {
    // By where one has gone, which a quick press finds not drawn yet.
    const i = Math.max(
      0,
      theirs.findIndex((p) => here() === '/setup/' + p.id),
    )
    const to = theirs[i + by]
    if (to) void navigate('/setup/' + to.id)
  }
  useCommands([
    { id: 'next', run: () => go(1), hidden: true },
    { id: 'previous', run: () => go(-1), hidden: true },
    ...(on && window.matchMedia('(max-width: 700px)').matches
      ? [{ id: 'back', run: () => void navigate('/setup'), hidden: true }]
      : []),
  ])
  return (
    <div className="grid h-full grid-cols-[264px_minmax(0,1fr)] bg-sand-0 max-[700px]:grid-cols-1">
      <nav
        aria-label={sentences.partsOfSetup}
        className={cx(
          'flex min-h-0 flex-col overflow-y-auto border-r border-sand-300 bg-sand-50 px-3 py-4 max-[700px]:border-0 max-[700px]:bg-sand-0',
          on && 'max-[700px]:hidden',
        )}
      >
        <div className="px-3 pb-3">
          <Heading>{sentences.setup}</Heading>
          <p className="text-[12.5px] wrap-anywhere text-ink-500">
            {sentences.signedInAs(session.name, session.address)}{' '}
            <TextButton small onClick={() => void leave()}>
              {sentences.signOut}
            </TextButton>
          </p>
        </div>
        <ul>
          {theirs.map((p) => (
            <li key={p.id}>
              <Link
                to={'/setup/' + p.id}
                aria-current={p.id === at ? 'page' : undefined}
                className={cx(line, p.id === at && (on ? 'bg-tide-50' : 'min-[701px]:bg-tide-50'))}
              >
                <span className={cx('block', p.id === on && 'font-semibold')}>{p.name}</span>
                <span className="block truncate text-[12px] text-ink-500">{p.about}</span>
              </Link>
            </li>
          ))}
          <li className="mt-2 border-t border-sand-300 pt-2">
            <Link to="/rules" className={line}>
              <span className="block">{sentences.rulesTitle}</span>
              <span className="block truncate text-[12px] text-ink-500">{sentences.whatIsDoneWith}</span>
            </Link>
          </li>
          <li>
            <Link to="/subscriptions" className={line}>
              <span className="block">{sentences.subscriptionsTitle}</span>
              <span className="block truncate text-[12px] text-ink-500">{sentences.listsAndLeaving}</span>
            </Link>
          </li>
          <li>
            <Link to="/accounts" className={line}>
              <span className="block">{sentences.accountsTitle}</span>
              <span className="block truncate text-[12px] text-ink-500">{sentences.serversAndPasswords}</span>
            </Link>
          </li>
          <li>
            <Link to="/keys" className={line}>
              <span className="block">{sentences.theKeysTitle}</span>
              <span className="block truncate text-[12px] text-ink-500">{sentences.eachCanBeChanged}</span>
            </Link>
          </li>
        </ul>
      </nav>
      <div className={cx('min-w-0 overflow-y-auto px-[34px] pt-6 pb-10 max-[700px]:px-4', !on && 'max-[700px]:hidden')}>
        {on && <h1 className="sr-only min-[701px]:hidden">{sentences.setup}</h1>}
        <Link to="/setup" className="mb-3 hidden text-accent max-[700px]:inline-block">
          {sentences.backToSetup}
        </Link>
        <div className="mx-auto max-w-2xl">
          {data ? (
            <Keeps name="setup" what={sentences.changesInSetup}>
              {shown[at](data)}
            </Keeps>
          ) : error ? (
            <Failed error={error} again={() => void refetch()} />
          ) : (
            <Loading what={sentences.loading} />
          )}
        </div>
      </div>
    </div>
  )
}
