import { type ReactNode, useEffect } from 'react'
import { useNavigate } from 'react-router'
import { digits } from '../../api/digits'
import { useTide } from '../../api/queries'
import { useKey } from '../../frame/commands'
import { Button, TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Key } from '../../kit/kit'
import type { Beginning } from './beginning'
import { sentences } from './sentences.parts'

/** What stands on an empty beach before there has been any mail. */
export function Begin({ begin }: { begin: Beginning }) {
  const navigate = useNavigate()
  const { coming, go } = begin
  return (
    <section aria-label={sentences.beginning} data-testid="begin" className="overflow-y-auto bg-sand-0 px-6">
      <div className="mx-auto mt-[9vh] max-w-xl">
        <Heading size="large">{sentences.yourInboxEmptyOnce}</Heading>
        <ol className="mt-6">
          <Step n={1} name={sentences.connectAnAccount} done={!begin.connect}>
            {begin.connect && (
              <>
                <p className="mb-2.5 text-ink-700">{sentences.whatConnectingDoes}</p>
                <Button
                  autoFocus
                  onClick={() => {
                    go('on')
                    void navigate('/accounts', { state: { led: true } })
                  }}
                >
                  {sentences.connectAnAccount}
                </Button>
              </>
            )}
          </Step>
          <Step n={2} name={sentences.itsMailComesIn} done={false}>
            {coming && (
              <div role="status" className="text-ink-700">
                <p>
                  {coming.trouble ||
                    (coming.expected
                      ? sentences.ofMessagesAreHere(digits(coming.brought), digits(coming.expected))
                      : sentences.lookingAt(coming.name))}
                </p>
                {coming.expected > 0 && (
                  <div className="mt-2 h-1.5 overflow-hidden rounded-full bg-sand-200">
                    <div
                      className="h-full bg-fill"
                      style={{ width: `${Math.min(100, (100 * coming.brought) / coming.expected)}%` }}
                    />
                  </div>
                )}
              </div>
            )}
          </Step>
          <Step n={3} name={sentences.decideWithSixKeys} done={false} />
          <Step n={4} name={sentences.sayWhenMailComes} done={false} />
        </ol>
        <TextButton tone="faint" className="mt-5" onClick={() => go('done')}>
          {sentences.skipThis}
        </TextButton>
      </div>
    </section>
  )
}

function Step({ n, name, done, children }: { n: number; name: string; done: boolean; children?: ReactNode }) {
  return (
    <li className="grid grid-cols-[28px_minmax(0,1fr)] gap-x-2.5 border-t border-sand-200 py-3">
      <span className={`text-[15px] font-[650] ${done ? 'text-kelp-600' : 'text-ink-500'}`} aria-hidden>
        {done ? '✓' : n}
      </span>
      <div>
        <h2 className={`text-[15px] ${done ? 'text-ink-500' : ''}`}>
          {name}
          {done && <span className="sr-only">, {sentences.done}</span>}
        </h2>
        {children && <div className="mt-1">{children}</div>}
      </div>
    </li>
  )
}

const six = ['bin', 'archive', 'reply', 'pass-on', 'snooze', 'follow-up'] as const
const names = {
  bin: sentences.keyBin,
  archive: sentences.keyArchive,
  reply: sentences.keyReply,
  'pass-on': sentences.keyHandOver,
  snooze: sentences.keySnooze,
  'follow-up': sentences.keyFollowUp,
}

/** The last two steps of the way, above the queue: the six keys until the first decision, and then a plan. */
export const FirstSteps = ({ begin }: { begin: Beginning }) =>
  begin.keys ? <SixKeys go={begin.go} /> : begin.plan ? <FirstPlan go={begin.go} /> : null

type Steps = Pick<Beginning, 'go'>

function SixKeys({ go }: Steps) {
  const decided = useTide().data?.decided ?? 0
  useEffect(() => {
    if (decided > 0) go('keys')
  })
  const undo = useKey('take-back')
  return (
    <Strip name={sentences.decideWithSixKeys}>
      <ul className="flex flex-wrap gap-x-4 gap-y-1.5">
        {six.map((id) => (
          <li key={id}>
            <KeyOf id={id} /> {names[id]}
          </li>
        ))}
      </ul>
      <p className="mt-1.5 text-ink-500">{sentences.tryOne(undo)}</p>
      <TextButton small onClick={() => go('keys')}>
        {sentences.iKnowThem}
      </TextButton>
    </Strip>
  )
}

function FirstPlan({ go }: Steps) {
  const navigate = useNavigate()
  return (
    <Strip name={sentences.sayWhenMailComes}>
      <p className="text-ink-700">{sentences.whatAPlanDoes}</p>
      <p className="mt-2 flex gap-2">
        <Button
          size="small"
          onClick={() => {
            go('done')
            void navigate('/delivery')
          }}
        >
          {sentences.chooseAPlan}
        </Button>
        <Button size="small" quiet onClick={() => go('done')}>
          {sentences.notNow}
        </Button>
      </p>
    </Strip>
  )
}

const KeyOf = ({ id }: { id: string }) => <Key>{useKey(id)}</Key>

const Strip = ({ name, children }: { name: string; children: ReactNode }) => (
  <section aria-label={name} data-testid="first-steps" className="border-b border-sand-300 bg-tide-50 px-4 py-2.5">
    <h2 className="mb-1 text-[13.5px] font-semibold">{name}</h2>
    {children}
  </section>
)
