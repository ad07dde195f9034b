import { useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import type { AccountView } from '../../api/desk'
import { digits } from '../../api/digits'
import { useAccounts } from '../../api/queries'
import { useMe } from '../../api/session'
import { long, plural } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { Button, TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { Restored, Vanished } from './asked'
import { carried, foldersOf } from './carried'
import { Form } from './form'
import { Lines } from './lines'
import { sentences } from './sentences'

/** The mail accounts: how they stand, and what is needed to connect one. */
export function AccountsScreen() {
  const { data, error, refetch } = useAccounts()
  const navigate = useNavigate()
  const led = (useLocation().state as { led?: boolean } | null)?.led === true // by the first steps, which go on after it
  const [open, setOpen] = useState<number | undefined>(led ? 0 : undefined) // 0: a new one
  const [line, setLine] = useState<number>()
  const done = () => (led ? void navigate('/') : setOpen(undefined))
  const session = useMe()
  useCommands(open !== undefined ? [{ id: 'back', run: done, hidden: true }] : [])
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheAccounts} />
  const account = data.accounts.find((a) => a.id === open)
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto grid max-w-4xl grid-cols-[minmax(0,1fr)] gap-5">
        <div className="flex items-center justify-between gap-4">
          <div>
            <Heading>{sentences.accounts}</Heading>
            <p className="text-ink-500">{sentences.whereYourMailLies}</p>
          </div>
          {open === undefined && line === undefined && data.accounts.length > 0 && (
            <Button onClick={() => setOpen(0)}>{sentences.connectAnother}</Button>
          )}
        </div>
        {data.uncarried > 0 && (
          <p className="rounded-[10px] bg-amber-100 px-4 py-2.5 text-amber-600" data-testid="uncarried">
            {sentences.notReachedTheServer(
              plural(data.uncarried, sentences.decisionHas, sentences.decisionsHave),
              data.problem,
            )}
          </p>
        )}
        {open === undefined && <Restored />}
        {line !== undefined ? null : open !== undefined ? (
          <Form key={open} account={account} name={session.name} onDone={done} />
        ) : data.accounts.length === 0 ? (
          <div>
            <Empty title={sentences.noAccountIsConnected}>{sentences.ebbeHasTheMail}</Empty>
            <p className="text-center">
              <Button autoFocus onClick={() => setOpen(0)}>
                {sentences.connectAnAccount}
              </Button>
            </p>
          </div>
        ) : (
          <ul className="grid grid-cols-[minmax(0,1fr)] gap-3">
            {data.accounts.map((a) => (
              <Card key={a.id} a={a} onChange={() => setOpen(a.id)} />
            ))}
          </ul>
        )}
        {open === undefined && <Lines open={line} onOpen={setLine} />}
      </div>
    </div>
  )
}

function Card({ a, onChange }: { a: AccountView; onChange: () => void }) {
  const first = !a.synced && !a.trouble && !a.paused
  const back = carried.filter(([k]) => a.carries[k]).map(([, name]) => name)
  return (
    <li className="rounded-[10px] border border-sand-200 px-4 py-3" data-testid="account">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <b className="text-[15px]">{a.name}</b>
        <span className="min-w-0 truncate text-ink-500">{a.address}</span>
        <span className="ml-auto">
          {a.paused ? (
            <Chip>{sentences.paused}</Chip>
          ) : a.trouble ? (
            <Chip tone="late">{sentences.notSynced}</Chip>
          ) : first ? (
            <Chip tone="tide">{sentences.comingIn}</Chip>
          ) : (
            <Chip tone="done">{sentences.upToDate}</Chip>
          )}
        </span>
        <TextButton onClick={onChange}>{sentences.change}</TextButton>
      </div>
      {first && a.expected > 0 && (
        <div className="mt-2">
          <div
            role="progressbar"
            aria-label={sentences.mailOf(a.name)}
            aria-valuemin={0}
            aria-valuemax={a.expected}
            aria-valuenow={a.brought}
            className="h-1.5 overflow-hidden rounded-full bg-sand-200"
          >
            <div className="h-full bg-fill" style={{ width: `${Math.min(100, (100 * a.brought) / a.expected)}%` }} />
          </div>
          <p className="mt-1 text-[12.5px] text-ink-500">
            {sentences.ofMessagesAreHere(digits(a.brought), digits(a.expected))}
          </p>
        </div>
      )}
      {a.vanished > 0 && <Vanished a={a} />}
      {a.trouble && (
        <Notice className="mt-1.5">
          {a.trouble} {a.synced > 0 && sentences.lastSynced(long(a.synced))} {sentences.ebbeTriesAgainBy}
        </Notice>
      )}
      <dl className="mt-1.5 grid grid-cols-[88px_minmax(0,1fr)] gap-x-3 text-[12.5px]">
        <dt className="text-ink-500">{sentences.servers}</dt>
        <dd className="truncate">{sentences.and(a.mailbox.host, a.sending.host)}</dd>
        <dt className="text-ink-500">{sentences.carriedBack}</dt>
        <dd>
          {back.length === carried.length
            ? sentences.allThatYouDecide
            : back.length
              ? back.join(', ')
              : sentences.nothingDecisionsStayIn}
          {a.carries.folders.on && sentences.keepsFolders(foldersOf(a.carries.folders))}
        </dd>
        {!a.trouble && a.synced > 0 && (
          <>
            <dt className="text-ink-500">{sentences.inStep}</dt>
            <dd>{long(a.synced)}</dd>
          </>
        )}
      </dl>
    </li>
  )
}
