import { Link } from 'react-router'
import type { Settings } from '../../api/desk'
import { useSettings } from '../../api/queries'
import { weekdays } from '../../api/times'
import { Keeps } from '../../frame/kept'
import { useLeaving } from '../../frame/leaving'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { RadioGroup, Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { named, Select } from '../../kit/select'
import { swipeNames, swipesOf } from '../worktop/swipes'
import { useChoosing } from './choosing'
import { Combos } from './combos'
import { Inward } from './inward'
import { Labels, Places } from './labels'
import { Notices } from './notices'
import { sentences } from './sentences'
import { Work } from './work'

const days = weekdays('short')

const swipes = [
  ['swipe-left', 'left', 'swipeLeft', sentences.swipeToTheLeft],
  ['swipe-left-far', 'leftFar', 'swipeLeftFar', sentences.farToTheLeft],
  ['swipe-right', 'right', 'swipeRight', sentences.swipeToTheRight],
  ['swipe-right-far', 'rightFar', 'swipeRightFar', sentences.farToTheRight],
] as const

/** What the user chooses for themselves: the working week, addresses, the look. */
export function Setup() {
  const { data, error, refetch } = useSettings()
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  return data ? (
    <Form key={JSON.stringify({ ...data, habits: { ...data.habits, combos: 0, keys: 0 } })} settings={data} />
  ) : (
    <Loading what={sentences.loading} />
  )
}

function Form(props: { settings: Settings }) {
  const { session, s, setS, parts, setParts, more, setMore, habit, week, save, at } = useChoosing(props)
  const leave = useLeaving()
  const part = (name: string, key: 'morning' | 'midday' | 'evening') => (
    <Field
      id={key}
      label={name}
      value={parts[key]}
      placeholder="8:00"
      onChange={(e) => setParts({ ...parts, [key]: e.target.value })}
    />
  )
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <Keeps name="setup" what={sentences.changesInSetup}>
        <form className="mx-auto grid max-w-2xl gap-6" onSubmit={(e) => void save(e)}>
          <div>
            <Heading>{sentences.setup}</Heading>
            <p className="text-ink-500">{sentences.signedInAs(session.name, session.address)}</p>
          </div>
          <section aria-labelledby="week">
            <h2 id="week" className="mb-2 text-[15px]">
              {sentences.yourWeek}
            </h2>
            <p className="mb-3 text-ink-500">{sentences.tomorrowAfterLunchAnd}</p>
            <div className="grid grid-cols-4 gap-3 max-[700px]:grid-cols-2">
              {part(sentences.morningBegins, 'morning')}
              {part(sentences.middayBegins, 'midday')}
              {part(sentences.eveningBegins, 'evening')}
              <Field
                id="zone"
                label={sentences.timeZone}
                value={s.week.zone}
                onChange={(e) => week({ zone: e.target.value })}
              />
            </div>
            <fieldset className="mt-3 flex flex-wrap gap-1.5">
              <legend className="mb-1 text-[11.5px] font-[650] text-ink-500">{sentences.youWorkOn}</legend>
              {[1, 2, 3, 4, 5, 6, 0].map((d) => (
                <Toggle
                  key={d}
                  on={s.week.workdays.includes(d)}
                  onChange={(on) =>
                    week({ workdays: on ? [...s.week.workdays, d].sort() : s.week.workdays.filter((x) => x !== d) })
                  }
                >
                  {days[d]}
                </Toggle>
              ))}
            </fieldset>
            <Checkbox checked={s.week.twelveHour} onChange={(on) => week({ twelveHour: on })} className="mt-3">
              {sentences.timesAsAmAnd}
            </Checkbox>
            {at('week') && <Notice className="mt-2">{at('week')}</Notice>}
          </section>
          <section aria-labelledby="mail">
            <h2 id="mail" className="mb-2 text-[15px]">
              {sentences.mail}
            </h2>
            <p className="mb-3 text-ink-500">
              {sentences.serversPasswordsAnd}{' '}
              <Link to="/accounts" className="text-accent underline">
                {sentences.accounts}
              </Link>
              .
            </p>
            <Field
              id="span"
              className="max-w-sm"
              label={sentences.secondsInWhichWhat}
              type="number"
              min={1}
              max={600}
              value={s.habits.span || 15}
              wrong={at('span')}
              onChange={(e) => habit({ span: Number(e.target.value) })}
            />
          </section>
          <section aria-labelledby="own">
            <h2 id="own" className="mb-2 text-[15px]">
              {sentences.yourAddresses}
            </h2>
            <p className="mb-2 text-ink-500">{sentences.mailFromTheseCounts}</p>
            <ul className="mb-2 flex flex-wrap gap-1.5">
              {s.addresses.map((a) => (
                <li key={a} className="rounded-[7px] bg-sand-100 px-2.5 py-1">
                  {a}
                </li>
              ))}
            </ul>
            <Field
              id="more"
              label={sentences.oneMore}
              type="email"
              className="max-w-sm"
              value={more}
              wrong={at('addresses')}
              onChange={(e) => setMore(e.target.value)}
            />
          </section>
          <section aria-labelledby="look">
            <h2 id="look" className="mb-2 text-[15px]">
              {sentences.look}
            </h2>
            <RadioGroup
              label={sentences.theme}
              className="mb-3"
              value={s.theme}
              options={[
                { id: '', name: sentences.asThisMachine },
                { id: 'light', name: sentences.light },
                { id: 'dark', name: sentences.dark },
              ]}
              onChange={(theme) => setS({ ...s, theme })}
            />
            <p className="text-ink-500">
              {sentences.whatYouAreNotified}{' '}
              <Link to="/delivery" className="text-accent underline">
                {sentences.delivery}
              </Link>
              .
            </p>
          </section>
          <section aria-labelledby="habits">
            <h2 id="habits" className="mb-2 text-[15px]">
              {sentences.snoozingAndSwiping}
            </h2>
            <Checkbox checked={!s.habits.asleep} onChange={(on) => habit({ asleep: !on })}>
              {sentences.aNewMessageBrings}
            </Checkbox>
            <div className="mt-3 grid grid-cols-3 gap-3 max-[700px]:grid-cols-1">
              <Field
                id="someday"
                label={sentences.somedayIsLookedThrough}
                type="number"
                min={1}
                max={28}
                value={s.habits.someday || 1}
                wrong={at('someday')}
                onChange={(e) => habit({ someday: Number(e.target.value) })}
              />
            </div>
            <div className="mt-3 grid grid-cols-4 gap-3 max-[700px]:grid-cols-2">
              {swipes.map(([id, way, key, label]) => (
                <Select
                  key={id}
                  id={id}
                  label={label}
                  value={swipesOf(s.habits)[way]}
                  options={named(swipeNames)}
                  onChange={(v) => habit({ [key]: v })}
                />
              ))}
            </div>
            <p className="mt-3 text-ink-500">
              {sentences.eachKeyCanBe}{' '}
              <Link to="/keys" className="text-accent underline">
                {sentences.theKeys}
              </Link>
              .
            </p>
          </section>
          <div className="flex items-center gap-3">
            <Button type="submit">{sentences.save}</Button>
            <span className="flex-1" />
            <Button quiet onClick={() => void leave()}>
              {sentences.signOut}
            </Button>
          </div>
        </form>
      </Keeps>
      <div className="mx-auto mt-8 grid max-w-2xl grid-cols-[minmax(0,1fr)] gap-8">
        <section aria-labelledby="work">
          <h2 id="work" className="mb-2 text-[15px]">
            {sentences.followUpsAndCalendar}
          </h2>
          <p className="mb-2 text-ink-500">{sentences.theStagesOfThe}</p>
          <Work />
        </section>
        <Inward />
        <Labels />
        <Places />
        <Combos />
        <Notices />
      </div>
    </div>
  )
}
