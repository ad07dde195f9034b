import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { RadioGroup, ToggleGroup } from '../../kit/choose'
import { useMemo, useState } from 'react'
import { post, put, told } from '../../api/client'
import { about, between, comingName, standingWords, whyHeld } from '../../api/delivery'
import type { Coming, Offered, Plan, Waits } from '../../api/gen/delivery'
import type { DeliveryView, PlanPreview } from '../../api/desk'
import { refresh, useDelivery, usePreview } from '../../api/queries'
import { long, plural } from '../../api/times'
import { Button, CardButton, TextButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { Failed } from '../../kit/kit'
import { useDesk } from '../../frame/desk'
import { HoldFields, useGate } from '../../frame/gate'
import { Answer, Heard } from './answer'
import { Choices } from './choices'
import { Through } from './through'
import { Week } from './week'

/** When mail comes in: the week as lines, what comes next, and what comes through all the same. */
export function DeliveryScreen() {
  const { data, error, refetch } = useDelivery()
  if (error) return <Failed error={error} again={() => void refetch()} />
  return data ? <Delivery data={data} /> : null
}

const blank = (): Plan => {
  const days = () => Array.from({ length: 7 }, () => ({ open: [], quiet: [], focus: [], rounds: [] }))
  return { id: '', name: 'Ordinary week', people: days(), machines: days(), answer: '', contact: '' }
}

function Delivery({ data }: { data: DeliveryView }) {
  const { say, notice } = useDesk()
  const [stream, setStream] = useState<'people' | 'machines'>('people')
  const [seen, setSeen] = useState(data.on)
  const [draft, setDraft] = useState<Plan | null>(null)
  const [offering, setOffering] = useState(false)
  const kept = data.plans.find((p) => p.id === seen) ?? data.plans.find((p) => p.id === data.on) ?? data.plans.at(0)
  const plan = draft ?? kept ?? null
  const empty = useMemo(() => blank(), [])
  const preview = usePreview(plan ?? empty)
  const inForce = !!plan && plan.id === data.on && !draft
  const send = async (what: Promise<unknown>, text: string) => {
    try {
      const v = await what
      refresh(['delivery', 'mail'])
      say({ text })
      return v
    } catch (e) {
      say({ text: told(e), wrong: true })
      return null
    }
  }
  const store = async (use: boolean) => {
    const v = (await send(
      put<{ id: string }>('/delivery/plans', { plan: draft, use }),
      use || draft?.id === data.on ? `“${draft?.name}” decides when mail comes in.` : 'The plan is saved.',
    )) as { id: string } | null
    if (v) {
      setSeen(v.id)
      setDraft(null)
    }
  }
  const edit = (change: Partial<Plan>) => setDraft({ ...(plan ?? empty), ...change })
  const begin = (o?: Offered) => {
    const { name, people, machines, answer, contact } = o ?? blank()
    setOffering(false)
    setDraft({
      id: '',
      name: data.plans.some((p) => p.name === name) ? name + ' 2' : name,
      people,
      machines,
      answer,
      contact,
    })
  }
  return (
    <div className="delivery-grid bg-sand-50">
      <section
        aria-label="The week"
        className="min-h-0 overflow-y-auto px-[22px] py-4 max-[700px]:overflow-visible max-[700px]:px-3"
      >
        <div className="mb-2.5 flex flex-wrap items-center gap-x-3.5 gap-y-2">
          <Heading>Delivery</Heading>
          <RadioGroup
            label="Whose mail"
            value={stream}
            options={[
              { id: 'people', name: 'People' },
              { id: 'machines', name: 'Newsletters and notices' },
            ]}
            onChange={setStream}
          />
          <p className="text-ink-500">
            {data.on
              ? 'Mail comes in at rounds, and freely where the line is open.'
              : 'No plan is in force: mail comes in as it is sent.'}
          </p>
        </div>
        <div className="mb-3 flex flex-wrap items-center gap-1.5 text-[12.5px]">
          <ToggleGroup
            label="Plans"
            value={plan?.id ?? ''}
            none={plan?.id ?? ''}
            options={data.plans.map((p) => ({
              id: p.id,
              name: (
                <>
                  {p.name}
                  {p.id === data.on && <span className="font-normal text-ink-500"> · in force</span>}
                </>
              ),
            }))}
            onChange={(id) => {
              setSeen(id)
              setDraft(null)
              setOffering(false)
            }}
          />
          {draft && !draft.id && (
            <span className="rounded-[7px] border border-dashed border-fill px-2.5 py-0.5 font-semibold text-tide-800">
              {draft.name || 'A new plan'}
            </span>
          )}
          <TextButton className="px-2 py-0.5" aria-expanded={offering} onClick={() => setOffering(!offering)}>
            + another plan
          </TextButton>
          <span className="flex-1" />
          {plan &&
            !draft &&
            (inForce ? (
              <Button
                quiet
                className="px-2.5! py-1! text-[12.5px]"
                onClick={() =>
                  void send(post('/delivery/use', { plan: '' }), 'The plan stays; mail comes in as it is sent.')
                }
              >
                End this plan
              </Button>
            ) : (
              <>
                <Button
                  className="px-2.5! py-1! text-[12.5px]"
                  onClick={() =>
                    void send(post('/delivery/use', { plan: plan.id }), `“${plan.name}” decides when mail comes in.`)
                  }
                >
                  Use this plan
                </Button>
                <Button
                  quiet
                  className="px-2.5! py-1! text-[12.5px]"
                  onClick={() => {
                    setSeen(data.on)
                    void send(post(`/delivery/plans/${plan.id}/drop`), `“${plan.name}” is deleted.`)
                  }}
                >
                  Delete it
                </Button>
              </>
            ))}
        </div>
        {(offering || !plan) && <Offers offers={data.offers} begin={begin} />}
        {plan && !offering && (
          <>
            <Week
              plan={plan}
              stream={stream}
              texts={preview.data?.texts[stream === 'people' ? 0 : 1]}
              edit={setDraft}
            />
            {draft && (
              <div
                className="mt-3 flex flex-wrap items-end gap-2.5 rounded-[10px] border border-dashed border-tide-400 bg-tide-50 px-3.5 py-2.5"
                role="region"
                aria-label="Unsaved changes"
              >
                <Field
                  id="plan-name"
                  label="Unsaved changes. Plan name"
                  value={draft.name}
                  maxLength={60}
                  autoComplete="off"
                  onChange={(e) => edit({ name: e.target.value })}
                />
                <Button onClick={() => void store(true)}>{draft.id === data.on ? 'Save' : 'Save and use it'}</Button>
                {draft.id !== data.on && (
                  <Button quiet onClick={() => void store(false)}>
                    Only keep it
                  </Button>
                )}
                <Button quiet onClick={() => setDraft(null)}>
                  Cancel
                </Button>
              </div>
            )}
            {preview.error && (
              <p role="alert" className="mt-2 text-coral-600">
                {preview.error.message}
              </p>
            )}
            {(draft || !inForce) && preview.data && <Doubts doubts={preview.data.doubts} />}
          </>
        )}
        {notice && (
          <p
            role={notice.wrong ? 'alert' : 'status'}
            data-testid="notice"
            className={`mt-3 rounded-[9px] px-3.5 py-2 ${notice.wrong ? 'bg-coral-100 text-coral-600' : 'bg-tide-50'}`}
          >
            {notice.text}
          </p>
        )}
        <div className="mt-5 grid grid-cols-2 gap-x-6 gap-y-6 max-[1000px]:grid-cols-1">
          <Through entries={data.through} />
          <div>
            {plan && <Answer key={plan.id} plan={plan} edit={edit} />}
            <Heard />
          </div>
          <Choices data={data} />
        </div>
      </section>
      <aside
        aria-label="What is coming"
        className={cx(
          'min-h-0 overflow-y-auto border-l border-sand-200 px-[18px] py-[18px]',
          'max-[700px]:overflow-visible max-[700px]:border-t max-[700px]:border-l-0',
        )}
      >
        {draft || (plan && !inForce) ? (
          preview.data && <Foreseen preview={preview.data} stream={stream} />
        ) : (
          <Now data={data} />
        )}
      </aside>
    </div>
  )
}

/** Plans to start from. */
const Offers = ({ offers, begin }: { offers: Offered[]; begin: (o?: Offered) => void }) => (
  <ul className="mb-4 grid grid-cols-2 gap-2 max-[900px]:grid-cols-1" aria-label="Plans to start from">
    {offers.map((o) => (
      <li key={o.id}>
        <CardButton className="h-full" onClick={() => begin(o)}>
          <b className="block">{o.name}</b>
          <span className="text-ink-500">{o.says}</span>
        </CardButton>
      </li>
    ))}
    <li>
      <CardButton look="open" className="h-full" onClick={() => begin()}>
        <b className="block">An empty week</b>
        <span className="text-ink-500">Draw or type it yourself.</span>
      </CardButton>
    </li>
  </ul>
)

const Doubts = ({ doubts }: { doubts: string[] }) =>
  doubts.length === 0 ? null : (
    <ul className="mt-3 rounded-[10px] bg-amber-100 px-3.5 py-2 text-amber-600" aria-label="Possible mistakes">
      {doubts.slice(0, 5).map((d) => (
        <li key={d}>{d}</li>
      ))}
      {doubts.length > 5 && <li>And {plural(doubts.length - 5, 'thing')} more of that kind.</li>}
    </ul>
  )

/** How it stands, and what comes. */
function Now({ data }: { data: DeliveryView }) {
  const { open, hand } = useGate()
  const { people, held } = data.state
  const shut = people.state !== 'open'
  const next = data.coming.find((c) => c.streams.includes('people'))
  const since = data.last.at
    ? data.last.round
      ? `Held since the ${long(data.last.at).replace('today ', '')} round`
      : `Held since ${long(data.last.at)}`
    : ''
  const about = (mean: number) => (mean < 0.5 ? 'hardly any mail' : `about ${plural(Math.round(mean), 'message')}`)
  const brings =
    next && next.expected.weeks >= 2
      ? `The next ${next.round ? 'round' : 'delivery'} brings ${about(next.expected.mean)}.`
      : next
        ? 'There is too little mail yet to say how much comes with the next.'
        : ''
  return (
    <>
      <h2 className="mb-1.5 text-[15px]">
        {!shut ? standingWords(people) : held < 0 ? 'Held now: out of sight' : `Held now: ${held}`}
      </h2>
      {shut ? (
        <>
          <p className="mb-2.5 text-ink-500">
            {whyHeld(people)}. {since && since + '. '}
            {brings}
          </p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => open('look')}>Look for one thing…</Button>
            {people.hand ? (
              <Button quiet onClick={() => void hand('')}>
                End the hold
              </Button>
            ) : (
              <Button quiet onClick={() => open('all')}>
                Let all in…
              </Button>
            )}
          </div>
        </>
      ) : (
        <div className="mb-2.5 flex flex-wrap gap-2">
          {people.hand ? (
            <Button quiet onClick={() => void hand('')}>
              Let the plan decide again
            </Button>
          ) : (
            <Button quiet onClick={() => void hand('hold')}>
              Hold now
            </Button>
          )}
        </div>
      )}
      <h2 className="mt-5 mb-1.5 text-[15px]">What is coming</h2>
      <Comings coming={data.coming} weeks={data.weeks} />
      <h2 className="mt-5 mb-1.5 text-[15px]">By hand</h2>
      <HoldFields hold={(until, answer) => void hand('hold', until, answer)} />
    </>
  )
}

function Comings({ coming, weeks }: { coming: Coming[]; weeks: number }) {
  const [all, setAll] = useState(false)
  const shown = all ? coming : coming.slice(0, 8)
  if (!coming.length)
    return <p className="text-ink-500">No delivery in the coming week: mail waits until you let it in.</p>
  return (
    <>
      <ul data-testid="coming">
        {shown.map((c) => (
          <li
            key={c.at}
            title={between(c.expected)}
            className="flex justify-between gap-3 border-t border-sand-200 py-1.5 text-[12.5px]"
          >
            <span>
              {comingName(c)}
              {c.streams.length === 1 && c.streams[0] === 'machines' && <span className="text-ink-500">, notices</span>}
            </span>
            <b className="whitespace-nowrap">{about(c.expected)}</b>
          </li>
        ))}
      </ul>
      {coming.length > shown.length && (
        <TextButton className="mt-1" onClick={() => setAll(true)}>
          the whole week
        </TextButton>
      )}
      {weeks < 2 && <p className="mt-2 text-[12.5px] text-ink-500">Ebbe needs two weeks of mail to estimate this.</p>}
    </>
  )
}

const spanWords = (ms: number) => {
  const m = Math.round(ms / 60_000)
  return m < 1
    ? 'no time'
    : m < 90
      ? `${m} min`
      : m < 48 * 60
        ? `${Math.round(m / 30) / 2} h`
        : `${Math.round(m / 1440)} days`
}
const waitWords = (w: Waits) =>
  w.messages === 0
    ? 'None came in the past month.'
    : w.never === w.messages
      ? `None of the ${w.messages} would have come in by themselves.`
      : [
          `Half of the ${w.messages} of the past month would have waited ${spanWords(w.median)} or less,`,
          `nine of ten ${spanWords(w.ninety)}.`,
          w.never && `${w.never} would not have come in by themselves.`,
        ]
          .filter(Boolean)
          .join(' ')

/** The coming week under a plan that is not in force. */
const Foreseen = ({ preview, stream }: { preview: PlanPreview; stream: string }) => (
  <>
    <h2 className="mb-1.5 text-[15px]">Next week under this plan</h2>
    <p className="mb-2.5 text-ink-500" data-testid="waits">
      <b className="text-ink-900">{stream === 'people' ? 'Mail from people' : 'Newsletters and notices'}.</b>{' '}
      {waitWords(preview.waits[stream === 'people' ? 0 : 1])}
    </p>
    <Comings coming={preview.coming} weeks={preview.weeks} />
    <p className="mt-3 text-[12.5px] text-ink-500">
      Nothing is used before you say so. What is held then comes in when the new plan says.
    </p>
  </>
)
