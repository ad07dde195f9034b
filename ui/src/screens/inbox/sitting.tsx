import { Heading } from '../../kit/heading'
import { RadioGroup } from '../../kit/choose'
import { useEffect, useState } from 'react'
import { Tray } from '../../kit/tray'
import { post } from '../../api/client'
import type { SittingView } from '../../api/desk'
import type { Query } from '../../api/gen/search'
import { client } from '../../api/queries'
import { putSlips } from '../../api/slips'
import { now, plural, span } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { useDesk } from '../../frame/desk'
import { useKey } from '../../frame/commands'

/** What can be done with the sitting as a whole. */
export function useSittingSteps() {
  const { say } = useDesk()
  const step = async (path: string, body: unknown = {}) => {
    try {
      const s = await post<SittingView>('/sitting' + path, body)
      putSlips(s.slips)
      client.setQueryData(['sitting'], s)
      return s
    } catch (e) {
      say({ text: (e as Error).message, wrong: true })
      return null
    }
  }
  return {
    begin: (body: unknown) => step('', body),
    end: () => step('/end'),
    longer: () => step('/longer', { minutes: 5 }),
  }
}

const orders = [
  {
    id: 'importance',
    name: 'most important first',
    note: 'people before machines, to you alone first, the oldest first',
  },
  { id: 'oldest', name: 'oldest first', note: '' },
  { id: 'sender', name: 'by sender', note: '' },
]
const lengths = [0, 5, 10, 20, 40]

/** How the undecided are to be gone through. */
export function SitTray({
  where,
  filter,
  shown,
  chosen,
  onClose,
  onBegun,
}: {
  where: Query
  filter: string
  shown: number
  chosen: number[]
  onClose: () => void
  onBegun: () => void
}) {
  const { begin } = useSittingSteps()
  const [order, setOrder] = useState('importance')
  const [minutes, setMinutes] = useState(0)
  const start = () =>
    void begin({ order, minutes, where, conversations: chosen }).then((s) => {
      if (!s) return
      onClose()
      onBegun()
    })
  return (
    <Tray
      label="Sitting"
      testid="sit-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        start()
      }}
    >
      <div>
        <h2 className="mb-1 text-[11.5px] text-ink-500">In which order?</h2>
        <RadioGroup label="In which order?" value={order} options={orders} onChange={setOrder} />
      </div>
      <div>
        <h2 className="mb-1 text-[11.5px] text-ink-500">For how long?</h2>
        <RadioGroup
          label="For how long?"
          value={minutes}
          options={lengths.map((m) => ({ id: m, name: m ? m + ' min' : 'until done' }))}
          onChange={setMinutes}
        />
      </div>
      <Button type="submit" autoFocus>
        Begin with {chosen.length ? `the ${chosen.length} chosen` : plural(shown, 'conversation')}
      </Button>
      <p className="w-full text-[12.5px] text-ink-500">
        One at a time, one decision each{filter ? `, only ${filter}` : ''}. What comes in meanwhile waits until after.
      </p>
    </Tray>
  )
}

const lasted = (ms: number) => {
  const s = Math.max(0, Math.floor(ms / 1000))
  return `${String(Math.floor(s / 60)).padStart(2, '0')}:${String(s % 60).padStart(2, '0')}`
}

/** Where the sitting stands: how many, how long. */
export function SittingHead({ sitting, onEnd }: { sitting: SittingView; onEnd: () => void }) {
  const { longer } = useSittingSteps()
  const [, turn] = useState(0)
  useEffect(() => {
    const t = setInterval(() => turn((n) => n + 1), 1000)
    return () => clearInterval(t)
  }, [])
  const done = sitting.total - sitting.queue.length
  const spent = now() - sitting.begun
  const over = sitting.minutes > 0 && spent >= sitting.minutes * 60_000
  const leave = useKey('leave')
  return (
    <div className="border-b border-sand-200 px-3.5 pt-2.5 pb-2" data-testid="sitting">
      <div className="flex items-baseline justify-between gap-2">
        <Heading size="small">Sitting</Heading>
        <span className="text-[12px] text-ink-500 tabular-nums">
          <b className="text-ink-900">{done}</b> of {sitting.total} · {lasted(spent)}
          {sitting.minutes ? ` of ${sitting.minutes} min` : ''}
        </span>
        <TextButton small onClick={onEnd}>
          End
        </TextButton>
      </div>
      <div
        className="mt-1.5 h-[5px] overflow-hidden rounded-full bg-sand-200"
        role="progressbar"
        aria-label="Decided in this sitting"
        aria-valuenow={done}
        aria-valuemin={0}
        aria-valuemax={sitting.total}
      >
        <div
          className="h-full bg-fill transition-[width] duration-150"
          style={{ width: `${(100 * done) / Math.max(1, sitting.total)}%` }}
        />
      </div>
      {over ? (
        <p role="alert" className="mt-2 text-[12.5px] text-ink-900" data-testid="time-over">
          The {sitting.minutes} minutes are over. <TextButton onClick={onEnd}>End here</TextButton> or{' '}
          <TextButton onClick={() => void longer()}>five more</TextButton>
        </p>
      ) : (
        <p className="mt-1 text-[11.5px] text-ink-500">{leave} leaves this one undecided; Ebbe counts how often.</p>
      )}
    </div>
  )
}

export const verbs: [string, string][] = [
  ['bin', 'binned'],
  ['archive', 'archived'],
  ['rest', 'archived as the rest'],
  ['fresh-start', 'archived for a fresh start'],
  ['snooze', 'snoozed'],
  ['follow-up', 'made follow-ups'],
  ['combo', 'by combos'],
  ['here', 'brought back'],
  ['finish', 'finished'],
]

/** What came of a sitting. */
export function Sum({ sitting, over, onEnd }: { sitting: SittingView; over?: boolean; onEnd: () => void }) {
  const { begin } = useSittingSteps()
  const { settled } = useDesk()
  const [ready, setReady] = useState(!over)
  useEffect(() => {
    if (!ready)
      void settled()
        .then(() => client.refetchQueries({ queryKey: ['sitting'] }))
        .then(() => setReady(true))
  }, [ready, settled])
  const s = sitting.sum
  const undecided = sitting.total - s.decided
  const most = Math.max(1, ...Object.values(s.byKind))
  if (!ready) return <section aria-label="The sitting is over" className="bg-sand-0" />
  return (
    <section aria-label="The sitting is over" data-testid="sum" className="min-h-0 overflow-y-auto bg-sand-0 px-6">
      <div className="mx-auto mt-[9vh] w-full max-w-lg">
        <Heading size="large">{plural(s.decided, 'conversation')} decided</Heading>
        <p className="mt-1 text-[15px] text-ink-700">
          {s.decided > 0 && `Typically ${plural(Math.max(1, s.median), 'second')} per decision. `}
          {sitting.ended > 0 &&
            `The sitting lasted ${sitting.ended - sitting.begun < 60_000 ? 'less than a minute' : span(sitting.ended - sitting.begun)}.`}
        </p>
        <dl className="mt-6 grid grid-cols-[130px_1fr_40px] items-center gap-x-3 gap-y-1.5 text-[13.5px]">
          {verbs
            .filter(([k]) => s.byKind[k])
            .map(([k, verb]) => (
              <Bar key={k} name={verb} n={s.byKind[k]} most={most} />
            ))}
          {s.left > 0 && <Bar name="left undecided" n={s.left} most={most} quiet />}
        </dl>
        <div className="mt-7 flex gap-2">
          <Button autoFocus onClick={onEnd}>
            {over ? 'End the sitting' : 'Back to the inbox'}
          </Button>
          {undecided > 0 && (
            <Button quiet onClick={() => void begin({ order: sitting.order, minutes: 0 })}>
              Continue with what is left
            </Button>
          )}
        </div>
      </div>
    </section>
  )
}

const Bar = ({ name, n, most, quiet }: { name: string; n: number; most: number; quiet?: boolean }) => (
  <>
    <dt className="text-right text-ink-500">{name}</dt>
    <dd className="h-3">
      <div
        className={`h-full rounded-[3px] ${quiet ? 'bg-sand-300' : 'bg-tide-400'}`}
        style={{ width: `${(100 * n) / most}%` }}
      />
    </dd>
    <dd className="font-semibold tabular-nums">{n}</dd>
  </>
)
