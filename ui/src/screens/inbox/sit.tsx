import { useEffect, useState } from 'react'
import type { SittingView } from '../../api/desk'
import type { Query } from '../../api/gen/search'
import { client } from '../../api/queries'
import { plural, span } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.parts'
import { useSittingSteps } from './sitting'
import { verbs } from './verbs'

const orders = [
  {
    id: 'importance',
    name: sentences.mostImportantFirst,
    note: sentences.peopleBeforeMachinesTo,
  },
  { id: 'oldest', name: sentences.oldestFirst, note: '' },
  { id: 'sender', name: sentences.bySender, note: '' },
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
      label={sentences.sitting}
      testid="sit-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        start()
      }}
    >
      <div>
        <h2 className="mb-1 text-[11.5px] text-ink-500">{sentences.inWhichOrder}</h2>
        <RadioGroup label={sentences.inWhichOrder} value={order} options={orders} onChange={setOrder} />
      </div>
      <div>
        <h2 className="mb-1 text-[11.5px] text-ink-500">{sentences.forHowLong}</h2>
        <RadioGroup
          label={sentences.forHowLong}
          value={minutes}
          options={lengths.map((m) => ({ id: m, name: m ? sentences.min(m) : sentences.untilDone }))}
          onChange={setMinutes}
        />
      </div>
      <Button type="submit" autoFocus>
        {sentences.beginWith(
          chosen.length ? sentences.theChosen(chosen.length) : plural(shown, sentences.conversation),
        )}
      </Button>
      <p className="w-full text-[12.5px] text-ink-500">
        {sentences.oneAtATime(filter ? sentences.onlyJoined(filter) : '')}
      </p>
    </Tray>
  )
}

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
  if (!ready) return <section aria-label={sentences.theSittingIsOver} className="bg-sand-0" />
  return (
    <section
      aria-label={sentences.theSittingIsOver}
      data-testid="sum"
      className="min-h-0 overflow-y-auto bg-sand-0 px-6"
    >
      <div className="mx-auto mt-[9vh] w-full max-w-lg">
        <Heading size="large">{sentences.decided(plural(s.decided, sentences.conversation))}</Heading>
        <p className="mt-1 text-[15px] text-ink-700">
          {s.decided > 0 && sentences.typicallyPerDecision(plural(Math.max(1, s.median), sentences.second))}
          {sitting.ended > 0 &&
            sentences.theSittingLasted(
              sitting.ended - sitting.begun < 60_000 ? sentences.lessThanAMinute : span(sitting.ended - sitting.begun),
            )}
        </p>
        <dl className="mt-6 grid grid-cols-[130px_1fr_40px] items-center gap-x-3 gap-y-1.5 text-[13.5px]">
          {verbs
            .filter(([k]) => s.byKind[k])
            .map(([k, verb]) => (
              <Bar key={k} name={verb} n={s.byKind[k]} most={most} />
            ))}
          {s.left > 0 && <Bar name={sentences.leftUndecided} n={s.left} most={most} quiet />}
        </dl>
        <div className="mt-7 flex gap-2">
          <Button autoFocus onClick={onEnd}>
            {over ? sentences.endTheSitting : sentences.backToTheInbox}
          </Button>
          {undecided > 0 && (
            <Button quiet onClick={() => void begin({ order: sitting.order, minutes: 0 })}>
              {sentences.continueWithWhatIs}
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
