import { post } from '../../api/client'
import type { DeliveryView, NewStream } from '../../api/desk'
import type { Offered } from '../../api/gen/delivery'
import { useDelivery } from '../../api/queries'
import { clockOf, plural } from '../../api/times'
import { useTyped } from '../../frame/kept'
import { Button, CardButton, TextButton } from '../../kit/button'
import { RadioGroup, ToggleGroup } from '../../kit/choose'
import { cx } from '../../kit/cx'
import { Field } from '../../kit/field'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { Answer, Heard } from './answer'
import { Choices } from './choices'
import { Foreseen, Now } from './coming'
import { daysOf, usePlanning, withDays } from './planning'
import { sentences } from './sentences'
import { daysIn } from './days'
import { asChanged, fresh, OwnStream, StreamForm, Together } from './streams'
import { Through } from './through'
import { Week } from './week'

/** When mail comes in: the week as lines, what comes next, and what comes through all the same. */
export function DeliveryScreen() {
  const { data, error, refetch } = useDelivery()
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  return data ? <Delivery data={data} /> : <Loading what={sentences.loading} />
}

function Delivery(props: { data: DeliveryView }) {
  const { data } = props
  const {
    stream,
    setStream,
    setSeen,
    draft,
    setDraft,
    offering,
    setOffering,
    plan,
    preview,
    inForce,
    send,
    store,
    edit,
    begin,
  } = usePlanning(props)
  const [own, setOwn] = useTyped<NewStream | null>('stream', null, sentences.aStreamOfYourOwn)
  const is = data.streams.find((s) => s.id === stream)
  const days = plan && daysOf(plan, stream)
  return (
    <div className="delivery-grid bg-sand-50">
      <section
        aria-label={sentences.theWeek}
        className="min-h-0 overflow-y-auto px-[22px] py-4 max-[700px]:overflow-visible max-[700px]:px-3"
      >
        <div className="mb-2.5 flex flex-wrap items-center gap-x-3.5 gap-y-2">
          <Heading>{sentences.delivery}</Heading>
          <RadioGroup
            label={sentences.whoseMail}
            value={stream}
            options={data.streams.map((s) => ({
              id: s.id,
              name:
                s.id === 'people' ? sentences.people : s.id === 'machines' ? sentences.newslettersAndNotices : s.name,
            }))}
            onChange={setStream}
          />
          <TextButton className="px-1 py-0.5" aria-expanded={own !== null} onClick={() => setOwn(own ? null : fresh)}>
            {sentences.aStreamOfYourOwn}
          </TextButton>
          <p className="text-ink-500">{data.on ? sentences.mailComesInAt : sentences.noPlanIsIn}</p>
        </div>
        {own && (
          <StreamForm
            key={own.id}
            stream={own}
            onEdit={setOwn}
            onDone={(id) => {
              setOwn(null)
              if (id !== undefined) setStream(id || 'people')
            }}
          />
        )}
        {is?.along && !own && <OwnStream stream={is} onChange={() => setOwn(asChanged(is))} />}
        {is && is.id !== 'people' && !own && <Together stream={is} />}
        <div className="mb-3 flex flex-wrap items-center gap-1.5 text-[12.5px]">
          <ToggleGroup
            label={sentences.plans}
            value={plan?.id ?? ''}
            none={plan?.id ?? ''}
            options={data.plans.map((p) => ({
              id: p.id,
              name: (
                <>
                  {p.name}
                  {p.id === data.on && <span className="font-normal text-ink-500"> {sentences.inForce}</span>}
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
              {draft.name || sentences.aNewPlan}
            </span>
          )}
          <TextButton className="px-2 py-0.5" aria-expanded={offering} onClick={() => setOffering(!offering)}>
            {sentences.anotherPlan}
          </TextButton>
          <span className="flex-1" />
          {plan &&
            !draft &&
            (inForce ? (
              <Button
                quiet
                size="middle"
                onClick={() => void send(post('/delivery/use', { plan: '' }), sentences.thePlanStaysMail)}
              >
                {sentences.endThisPlan}
              </Button>
            ) : (
              <>
                <Button
                  size="middle"
                  onClick={() =>
                    void send(post('/delivery/use', { plan: plan.id }), sentences.decidesWhenMailComesNamed(plan.name))
                  }
                >
                  {sentences.useThisPlan}
                </Button>
                <Button
                  quiet
                  size="middle"
                  onClick={() => {
                    setSeen(data.on)
                    void send(post(`/delivery/plans/${plan.id}/drop`), sentences.isDeleted(plan.name))
                  }}
                >
                  {sentences.deleteIt}
                </Button>
              </>
            ))}
        </div>
        {(offering || !plan) && <Offers offers={data.offers} begin={begin} />}
        {plan && !offering && (
          <>
            {is?.along && (
              <p className="mb-2 text-ink-500" data-testid="along">
                {days
                  ? sentences.itHasDays
                  : sentences.itGoesAlong(
                      is.at.days
                        ? sentences.onAt(daysIn(is.at.days), clockOf(is.at.minute))
                        : is.along === 'people'
                          ? sentences.withPeople
                          : sentences.withNewsletters,
                    )}{' '}
                <TextButton
                  onClick={() => setDraft(withDays(plan, stream, days ? undefined : daysOf(plan, is.along!)))}
                >
                  {days ? sentences.letItGoAlong : sentences.drawItsOwn}
                </TextButton>
              </p>
            )}
            {days && (
              <Week key={stream} plan={plan} stream={stream} texts={preview.data?.texts[stream]} edit={setDraft} />
            )}
            {draft && (
              <div
                className="mt-3 flex flex-wrap items-end gap-2.5 rounded-[10px] border border-dashed border-tide-400 bg-tide-50 px-3.5 py-2.5"
                role="region"
                aria-label={sentences.unsavedChanges}
              >
                <Field
                  id="plan-name"
                  label={sentences.unsavedChangesPlanName}
                  value={draft.name}
                  maxLength={60}
                  autoComplete="off"
                  onChange={(e) => edit({ name: e.target.value })}
                />
                <Button onClick={() => void store(true)}>
                  {draft.id === data.on ? sentences.save : sentences.saveAndUseIt}
                </Button>
                {draft.id !== data.on && (
                  <Button quiet onClick={() => void store(false)}>
                    {sentences.onlyKeepIt}
                  </Button>
                )}
                <Button quiet onClick={() => setDraft(null)}>
                  {sentences.cancel}
                </Button>
              </div>
            )}
            {preview.error && <Notice className="mt-2">{preview.error.message}</Notice>}
            {(draft || !inForce) && preview.data && <Doubts doubts={preview.data.doubts} />}
          </>
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
        aria-label={sentences.whatIsComing}
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
  <ul className="mb-4 grid grid-cols-2 gap-2 max-[900px]:grid-cols-1" aria-label={sentences.plansToStartFrom}>
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
        <b className="block">{sentences.anEmptyWeek}</b>
        <span className="text-ink-500">{sentences.drawOrTypeIt}</span>
      </CardButton>
    </li>
  </ul>
)

const Doubts = ({ doubts }: { doubts: string[] }) =>
  doubts.length === 0 ? null : (
    <ul className="mt-3 rounded-[10px] bg-amber-100 px-3.5 py-2 text-amber-600" aria-label={sentences.possibleMistakes}>
      {doubts.slice(0, 5).map((d) => (
        <li key={d}>{d}</li>
      ))}
      {doubts.length > 5 && <li>{sentences.andMoreOfThat(plural(doubts.length - 5, sentences.thing))}</li>}
    </ul>
  )
