import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { get } from '../../api/client'
import type { Figures, Settings } from '../../api/desk'
import { digits } from '../../api/digits'
import type { JunkWishes } from '../../api/gen/inbox'
import { type Choice, useChoice, useChoosing } from '../../frame/choosing'
import { useTyped } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { ChoiceList, Toggle } from '../../kit/choose'
import { Field } from '../../kit/field'
import { Choosing, Part } from './part'
import { sentences } from './sentences'

const scripts = ['Arabic', 'Cyrillic', 'Greek', 'Han', 'Hebrew', 'Thai']
const languages = ['de', 'fr', 'es', 'it', 'nl', 'da', 'nb', 'sv', 'pt', 'pl'] as const
const named = new Intl.DisplayNames('en', { type: 'language' })
const degrees = { off: sentences.junkOff, careful: sentences.junkCareful, strict: sentences.junkStrict }

/** How strict the junk test is, with what each degree would have done, and who is junk or never is. */
export function JunkPart({ settings: { habits, addresses } }: { settings: Settings }) {
  const choice = useChoice()
  const { data } = useQuery({
    queryKey: ['junk', 'figures'],
    queryFn: () => get<Figures>('/junk/figures'),
    staleTime: 0,
  })
  const wishes = habits.junk
  const changed = (change: Partial<JunkWishes>): Choice => ({ habits: { junk: { ...wishes, ...change } } })
  const set = (change: Partial<JunkWishes>) => void choice(changed(change))
  const list = (key: 'to' | 'scripts' | 'languages', x: string, on: boolean) => {
    const all = (wishes[key] ?? []) as string[]
    set({ [key]: on ? [...all, x] : all.filter((y) => y !== x) })
  }
  return (
    <Part id="junk" testid="junk-settings" name={sentences.junk} about={sentences.junkIsTold}>
      <p className="mb-3">
        <Link to="/junk" className="text-accent hover:underline">
          {sentences.lookThroughJunk}
        </Link>
      </p>
      <h3 className="mb-1 text-[14px]">{sentences.howStrict}</h3>
      {data && (
        <p className="mb-1.5 text-ink-500">{sentences.learnedFrom(digits(data.junk), digits(data.kept), data.knows)}</p>
      )}
      <div className="max-w-xl">
        <ChoiceList
          label={sentences.howStrict}
          value={wishes.degree || 'careful'}
          options={(['off', 'careful', 'strict'] as const).map((d) => {
            const x = data?.degrees.find((y) => y.degree === d)
            return {
              id: d,
              name: degrees[d],
              note: x && sentences.wouldHaveCalled(digits(x.called), digits(data?.of ?? 0), x.kept, x.missed),
              data: { 'data-degree': d },
            }
          })}
          onChange={(degree) => set({ degree })}
        />
      </div>
      {data?.degrees.some((d) => d.wrongly.length > 0) && (
        <p className="mt-1.5 max-w-xl text-[12px] text-ink-500">
          {sentences.keptByYou}{' '}
          {data.degrees
            .flatMap((d) => d.wrongly)
            .slice(0, 3)
            .map((w, i) => (
              <span key={w.conversation + '-' + i}>
                {i > 0 && ', '}
                <Link to={'/c/' + w.conversation} className="underline">
                  {w.subject}
                </Link>
              </span>
            ))}
        </p>
      )}
      <Senders
        id="blocked"
        name={sentences.blocked}
        about={sentences.blockedGoes}
        all={wishes.blocked ?? []}
        set={(blocked) => changed({ blocked })}
      />
      <Senders
        id="never-junk"
        name={sentences.neverJunk}
        about={sentences.neverJunkUnless}
        all={wishes.never ?? []}
        set={(never) => changed({ never })}
      />
      {addresses.length > 1 && (
        <Choosing name={sentences.neverJunkTo}>
          {addresses.map((a) => (
            <Toggle key={a} on={(wishes.to ?? []).includes(a)} onChange={(on) => list('to', a, on)}>
              {a}
            </Toggle>
          ))}
        </Choosing>
      )}
      <Choosing name={sentences.junkInLanguages}>
        {languages.map((l) => (
          <Toggle
            key={l}
            on={((wishes.languages ?? []) as string[]).includes(l)}
            onChange={(on) => list('languages', l, on)}
          >
            {named.of(l)}
          </Toggle>
        ))}
      </Choosing>
      <Choosing name={sentences.junkInScripts}>
        {scripts.map((s) => (
          <Toggle key={s} on={(wishes.scripts ?? []).includes(s)} onChange={(on) => list('scripts', s, on)}>
            {s}
          </Toggle>
        ))}
      </Choosing>
    </Part>
  )
}

function Senders(props: { id: string; name: string; about: string; all: string[]; set: (all: string[]) => Choice }) {
  const { id, name, about, all, set } = props
  const choose = useChoosing()
  const choice = useChoice()
  const [text, setText] = useTyped('junk-' + id, '', name)
  const [wrong, setWrong] = useState('')
  const add = async () => {
    const said = await choose(set([...all, text.trim().toLowerCase()]))
    setWrong(said ?? '')
    if (!said) setText('')
  }
  return (
    <section className="mt-5 max-w-xl" aria-label={name} data-testid={id}>
      <h3 className="text-[14px]">{name}</h3>
      <p className="mb-1 text-[12px] text-ink-500">{about}</p>
      <ul>
        {all.map((s) => (
          <li key={s} className="flex items-baseline border-b border-sand-200 py-1">
            <span className="min-w-0 flex-1 truncate">{s}</span>
            <TextButton small onClick={() => void choice(set(all.filter((x) => x !== s)))}>
              {sentences.remove}
            </TextButton>
          </li>
        ))}
      </ul>
      <form
        className="mt-1.5 flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (text.trim()) void add()
        }}
      >
        <Field
          id={id}
          className="flex-1"
          label={sentences.anAddressOrDomain}
          value={text}
          wrong={wrong}
          autoComplete="off"
          onChange={(e) => {
            setText(e.target.value)
            setWrong('')
          }}
        />
        <Button type="submit" quiet disabled={!text.trim()}>
          {sentences.add}
        </Button>
      </form>
    </section>
  )
}
