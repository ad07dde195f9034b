import { Heading } from '../../kit/heading'
import { RadioGroup, Toggle } from '../../kit/choose'
import { Select, named } from '../../kit/select'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Settings } from '../../api/desk'
import { client, useSession, useSettings } from '../../api/queries'
import { EbbeError, post, put } from '../../api/client'
import { Checkbox } from '../../kit/checkbox'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { Failed } from '../../kit/kit'
import { useDesk } from '../../frame/desk'
import { swipeNames, usualSwipes } from '../worktop/worktop'
import { Combos } from './combos'
import { Inward } from './inward'
import { Labels, Places } from './labels'
import { Notices } from './notices'
import { Work } from './work'

const days = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']
const two = (n: number) => String(n).padStart(2, '0')
const toClock = (minutes: number) => `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`
const toMinutes = (text: string) => {
  const m = /^(\d{1,2})[:.]?(\d{2})?$/.exec(text.trim())
  return m && +m[1] < 24 && +(m[2] ?? 0) < 60 ? +m[1] * 60 + +(m[2] ?? 0) : -1
}

/** What the user chooses for themselves: the working week, addresses, the look. */
export function Setup() {
  const { data, error, refetch } = useSettings()
  if (error) return <Failed error={error} again={() => void refetch()} />
  return data ? (
    <Form key={JSON.stringify({ ...data, habits: { ...data.habits, combos: 0, keys: 0 } })} settings={data} />
  ) : null
}

function Form({ settings }: { settings: Settings }) {
  const session = useSession().data!
  const { say } = useDesk()
  const [s, setS] = useState(settings)
  const [parts, setParts] = useState({
    morning: toClock(s.week.morning),
    midday: toClock(s.week.midday),
    evening: toClock(s.week.evening),
  })
  const [more, setMore] = useState('')
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const [stored, setStored] = useState<unknown[]>([]) // what was saved last
  const saved = [s, parts, more].every((x, i) => x === stored[i])
  const habit = (change: Partial<Settings['habits']>) => setS({ ...s, habits: { ...s.habits, ...change } })
  const week = (change: Partial<Settings['week']>) => setS({ ...s, week: { ...s.week, ...change } })
  const save = async (e: React.FormEvent) => {
    e.preventDefault()
    setWrong(null)
    try {
      const week = {
        ...s.week,
        morning: toMinutes(parts.morning),
        midday: toMinutes(parts.midday),
        evening: toMinutes(parts.evening),
      }
      await put('/settings', {
        ...s,
        habits: { ...s.habits, combos: settings.habits.combos, keys: settings.habits.keys },
        week,
        addresses: [...s.addresses, ...(more.trim() ? [more.trim()] : [])],
      })
      await client.invalidateQueries()
      say({ text: 'Saved.' })
      setStored([s, parts, more])
    } catch (problem) {
      if (problem instanceof EbbeError) setWrong(problem)
    }
  }
  const at = (field: string) => (wrong?.field === field ? wrong.message : undefined)
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
      <form className="mx-auto grid max-w-2xl gap-6" onSubmit={(e) => void save(e)}>
        <div>
          <Heading>Setup</Heading>
          <p className="text-ink-500">
            Signed in as {session.name}, {session.address}.
          </p>
        </div>
        <section aria-labelledby="week">
          <h2 id="week" className="mb-2 text-[15px]">
            Your week
          </h2>
          <p className="mb-3 text-ink-500">“Tomorrow”, “after lunch” and “next week” are understood by these.</p>
          <div className="grid grid-cols-4 gap-3 max-[700px]:grid-cols-2">
            {part('Morning begins', 'morning')}
            {part('Midday begins', 'midday')}
            {part('Evening begins', 'evening')}
            <Field id="zone" label="Time zone" value={s.week.zone} onChange={(e) => week({ zone: e.target.value })} />
          </div>
          <fieldset className="mt-3 flex flex-wrap gap-1.5">
            <legend className="mb-1 text-[11.5px] font-[650] text-ink-500">You work on</legend>
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
            Times as am and pm
          </Checkbox>
          {at('week') && (
            <p role="alert" className="mt-2 text-coral-600">
              {at('week')}
            </p>
          )}
        </section>
        <section aria-labelledby="mail">
          <h2 id="mail" className="mb-2 text-[15px]">
            Mail
          </h2>
          <p className="mb-3 text-ink-500">
            Servers, passwords and signatures are with the{' '}
            <Link to="/accounts" className="text-accent underline">
              accounts
            </Link>
            .
          </p>
          <Field
            id="span"
            className="max-w-sm"
            label="Seconds in which what you send can be taken back"
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
            Your addresses
          </h2>
          <p className="mb-2 text-ink-500">Mail from these counts as written by you.</p>
          <ul className="mb-2 flex flex-wrap gap-1.5">
            {s.addresses.map((a) => (
              <li key={a} className="rounded-[7px] bg-sand-100 px-2.5 py-1">
                {a}
              </li>
            ))}
          </ul>
          <Field
            id="more"
            label="One more"
            type="email"
            className="max-w-sm"
            value={more}
            wrong={at('addresses')}
            onChange={(e) => setMore(e.target.value)}
          />
        </section>
        <section aria-labelledby="look">
          <h2 id="look" className="mb-2 text-[15px]">
            Look
          </h2>
          <RadioGroup
            label="Theme"
            className="mb-3"
            value={s.theme}
            options={[
              { id: '', name: 'as this machine' },
              { id: 'light', name: 'light' },
              { id: 'dark', name: 'dark' },
            ]}
            onChange={(theme) => setS({ ...s, theme })}
          />
          <p className="text-ink-500">
            What you are notified of is chosen in{' '}
            <Link to="/delivery" className="text-accent underline">
              Delivery
            </Link>
            .
          </p>
        </section>
        <section aria-labelledby="habits">
          <h2 id="habits" className="mb-2 text-[15px]">
            Snoozing and swiping
          </h2>
          <Checkbox checked={!s.habits.asleep} onChange={(on) => habit({ asleep: !on })}>
            A new message brings a snoozed conversation back at once
          </Checkbox>
          <div className="mt-3 grid grid-cols-3 gap-3 max-[700px]:grid-cols-1">
            <Field
              id="someday"
              label="Someday is looked through on the"
              type="number"
              min={1}
              max={28}
              value={s.habits.someday || 1}
              wrong={at('someday')}
              onChange={(e) => habit({ someday: Number(e.target.value) })}
            />
            <Choose
              id="swipe-left"
              label="Swipe to the left"
              value={s.habits.swipeLeft || usualSwipes.left}
              onChange={(v) => habit({ swipeLeft: v })}
            />
            <Choose
              id="swipe-right"
              label="Swipe to the right"
              value={s.habits.swipeRight || usualSwipes.right}
              onChange={(v) => habit({ swipeRight: v })}
            />
          </div>
          <p className="mt-3 text-ink-500">
            Each key can be changed:{' '}
            <Link to="/keys" className="text-accent underline">
              the keys
            </Link>
            .
          </p>
        </section>
        <div className="flex items-center gap-3">
          <Button type="submit">Save</Button>
          {saved && (
            <span role="status" className="text-kelp-600">
              Saved.
            </span>
          )}
          <span className="flex-1" />
          <Button quiet onClick={() => void post('/sign-out').then(() => client.resetQueries())}>
            Sign out
          </Button>
        </div>
      </form>
      <div className="mx-auto mt-8 grid max-w-2xl grid-cols-[minmax(0,1fr)] gap-8">
        <section aria-labelledby="work">
          <h2 id="work" className="mb-2 text-[15px]">
            Follow-ups and calendar
          </h2>
          <p className="mb-2 text-ink-500">
            The stages of the board, when the day is closed, and files for other programs.
          </p>
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

function Choose({
  id,
  label,
  value,
  onChange,
}: {
  id: string
  label: string
  value: string
  onChange: (v: string) => void
}) {
  return <Select id={id} label={label} value={value} options={named(swipeNames)} onChange={onChange} />
}
