import { XIcon } from '@phosphor-icons/react'
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import { keyed, post, put, told } from '../../api/client'
import type { FoundCount, FoundOther, FoundView } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Mark } from '../../api/gen/search'
import { client, useLabels } from '../../api/queries'
import { dayKey, plural, short } from '../../api/times'
import { useKey, useRegistry } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { useGate } from '../../frame/gate'
import { IconButton, TextButton } from '../../kit/button'
import { RadioGroup, ToggleGroup } from '../../kit/choose'
import { Collapsible } from '../../kit/collapsible'
import { Field } from '../../kit/field'
import { Failed } from '../../kit/kit'
import { LabelMark } from '../../kit/label'
import { Pieces } from '../worktop/excerpt'
import { FindingContext } from '../worktop/found'
import { Worktop } from '../worktop/worktop'
import { useFound, useFoundPlaces, useRecentSearches } from './asking'
import { sentences } from './sentences'

const places = [
  { id: '', name: sentences.everything, words: '' },
  { id: 'inbox', name: sentences.inbox, words: 'in inbox' },
  { id: 'starred', name: sentences.starred, words: 'starred' },
  { id: 'archived', name: sentences.archived, words: 'in archive' },
  { id: 'snoozed', name: sentences.snoozed, words: 'in snoozed' },
  { id: 'bin', name: sentences.bin, words: 'in bin' },
  { id: 'junk', name: sentences.junk, words: 'in junk' },
]
const ways = [
  [sentences.askFrom, sentences.askFromMeans],
  [sentences.askExact, sentences.askExactMeans],
  [sentences.askNot, sentences.askNotMeans],
  [sentences.askSince, sentences.askSinceMeans],
  [sentences.askFiles, sentences.askFilesMeans],
  [sentences.askLabel, sentences.askLabelMeans],
  [sentences.askState, sentences.askStateMeans],
]
const FIRST = 20 // conversations of which it is said at once where the words stand
const nothingFound: number[] = []

const without = (text: string, marks: Mark[]) =>
  [...marks]
    .sort((a, b) => b.from - a.from)
    .reduce((t, m) => t.slice(0, m.from) + t.slice(m.to), text)
    .replace(/\s+/g, ' ')
    .trim()

/** Finds anything by what it says: words, and among them marks that narrow; the best first, or the newest. */
export function Find() {
  const [params, setParams] = useSearchParams()
  const [text, setText] = useState(params.get('asked') ?? '')
  const [newest, setNewest] = useState(params.get('newest') === '1')
  // Somebody went here from here, with other words.
  const jumped = (useLocation().state as { jumped?: number } | null)?.jumped
  const [seen, setSeen] = useState(jumped)
  if (jumped !== seen) {
    setSeen(jumped)
    if (jumped) setText(params.get('asked') ?? '')
  }
  const asked = useDeferredValue(text.trim())
  // What is looked for stands in the address: Back, a reload and a link find it again.
  const address = new URLSearchParams([
    ...(asked ? [['asked', asked]] : []),
    ...(newest ? [['newest', '1']] : []),
  ]).toString()
  useEffect(() => {
    const is = new URLSearchParams([...params].filter(([name]) => name === 'asked' || name === 'newest')).toString()
    if (address === is) return
    const all = new URLSearchParams(window.location.search) // what else is shown stays there
    for (const name of ['asked', 'newest']) all.delete(name)
    for (const [name, value] of new URLSearchParams(address)) all.set(name, value)
    setParams(all, { replace: true })
  }, [address, params, setParams])
  const { data: found, error, refetch } = useFound(asked, newest)
  const before = found?.asked !== asked || found.newest !== newest // it is what was found for other words
  const ids = found?.ids ?? nothingFound
  const groups = useMemo(() => [{ key: 'found', name: '', ids }], [ids])
  // Where the words stand further down is asked for as it comes into view.
  const [further, setFurther] = useState<{ of: string; from: number[] }>({ of: '', from: [] })
  const from = further.of === address ? further.from : nothingFound
  const more = useFoundPlaces(asked, newest, from)
  const finding = useMemo(() => {
    const at = new Map([...(found?.places ?? []), ...more].map((p) => [p.conversation, p.place]))
    const place = new Map(ids.map((id, i) => [id, i]))
    return {
      terms: found?.terms ?? [],
      at: (id: number) => {
        const i = place.get(id)
        if (asked && i !== undefined && i >= FIRST && !at.has(id)) {
          const n = i - (i % FIRST)
          queueMicrotask(() =>
            setFurther((f) =>
              f.of !== address
                ? { of: address, from: [n] }
                : f.from.includes(n)
                  ? f
                  : { of: address, from: [...f.from, n] },
            ),
          )
        }
        return at.get(id)
      },
    }
  }, [found, more, ids, address, asked])
  // The keys go to what was found once it is what is asked for, and never to what was found before.
  const leaving = useRef(false)
  const field = useRef<HTMLInputElement>(null)
  const here = !before && asked === text.trim()
  useEffect(() => {
    if (!leaving.current || !here) return
    leaving.current = false
    field.current?.blur()
  }, [here])
  const note = () => {
    if (asked && found?.count)
      void post('/found/recent', { asked }).then(() => client.invalidateQueries({ queryKey: ['recent-searches'] }))
  }
  return (
    <FindingContext value={finding}>
      <Worktop
        label={sentences.found}
        groups={groups}
        of={found && `${found.newest} ${found.asked}`}
        position={(n, total) => total > 0 && sentences.ofFound(n, total)}
        time={(s) => short(finding.at(s.id)?.at ?? s.lastAt)}
        head={() => (
          <div className="max-h-[56vh] overflow-y-auto border-b border-sand-200 px-3.5 pt-3 pb-2.5">
            <Field
              id="find"
              ref={field}
              label={sentences.find}
              placeholder={sentences.example}
              type="text"
              autoFocus
              autoComplete="off"
              value={text}
              onChange={(e) => {
                leaving.current = false
                setText(e.target.value)
              }}
              onKeyDown={(e) => {
                if (e.nativeEvent.isComposing) return
                if (e.key === 'Enter' || e.key === 'ArrowDown') {
                  e.preventDefault()
                  note()
                  if (here) e.currentTarget.blur()
                  else leaving.current = true
                }
              }}
            />
            {found && !before && <Understood text={text} found={found} setText={setText} />}
            <Where text={text} found={before ? undefined : found} setText={setText} />
            {error && <Failed error={error} again={() => void refetch()} />}
            {!asked && <Ways setText={setText} />}
            {found && asked && !before && (
              <Sum asked={asked} found={found} newest={newest} setText={setText} setNewest={setNewest} />
            )}
          </div>
        )}
      />
    </FindingContext>
  )
}

interface Asking {
  text: string
  found?: FoundView
  setText: (text: string) => void
}

/** What was understood, as marks; each can be taken off. */
function Understood({ text, found, setText }: Asking & { found: FoundView }) {
  const { marks, doubt } = found.reading
  return (
    <>
      {marks.length > 0 && (
        <ul className="mt-1.5 flex flex-wrap gap-1" aria-label={sentences.understood} data-testid="understood">
          {marks.map((m) => (
            <li
              key={m.from}
              data-kind={m.kind}
              className={
                'flex items-center rounded-[6px] pr-0.5 pl-1.5 text-[12px] ' +
                (m.kind === 'word' ? 'bg-tide-100 text-tide-800' : 'bg-sand-200 text-ink-900')
              }
            >
              <span className="max-w-52 truncate py-0.5">{m.means}</span>
              <IconButton label={sentences.takeOff(m.means)} onClick={() => setText(without(text, [m]))}>
                <XIcon size={11} aria-hidden />
              </IconButton>
            </li>
          ))}
        </ul>
      )}
      {doubt && (
        <p className="mt-1.5 text-[12.5px] text-amber-600" role="status" data-testid="doubt">
          {doubt}
        </p>
      )}
    </>
  )
}

/** The place that is looked in, if not everywhere. */
function Where({ text, found, setText }: Asking) {
  const q = found?.reading.query
  const at = (q?.starred && !q.place ? 'starred' : q?.place) ?? ''
  return (
    <RadioGroup
      label={sentences.where}
      look="plain"
      className="mt-1.5 -ml-2"
      value={at}
      options={places}
      onChange={(id) => {
        const marks = found?.reading.marks.filter((m) => m.kind === 'place' || m.means === 'starred') ?? []
        setText([without(text, marks), places.find((p) => p.id === id)?.words].filter(Boolean).join(' '))
      }}
    />
  )
}

/** What stands there while nothing is asked: what was looked for before, labels, and how to ask. */
function Ways({ setText }: { setText: (text: string) => void }) {
  const { data: recent } = useRecentSearches()
  const { data: labels } = useLabels()
  const [open, setOpen] = useState(false)
  return (
    <>
      {!!recent?.length && (
        <div className="mt-2" data-testid="recent">
          <h2 className="text-[12px] font-[650] text-ink-500">{sentences.recent}</h2>
          <ul>
            {recent.slice(0, 6).map((r) => (
              <li key={r} className="truncate">
                <TextButton onClick={() => setText(r)}>{r}</TextButton>
              </li>
            ))}
          </ul>
          <TextButton
            small
            tone="faint"
            onClick={() =>
              void post('/found/recent', { asked: '' }).then(() =>
                client.invalidateQueries({ queryKey: ['recent-searches'] }),
              )
            }
          >
            {sentences.forget}
          </TextButton>
        </div>
      )}
      {!!labels?.length && (
        <ToggleGroup
          label={sentences.labelled}
          look="plain"
          className="mt-1.5 -ml-2 max-h-20 overflow-y-auto"
          value={''}
          none={''}
          options={labels.map((l) => ({
            id: l.path,
            name: (
              <>
                <LabelMark color={l.color} mark={l.mark} />
                {l.path}
              </>
            ),
          }))}
          onChange={(path) => setText(`label “${path}”`)}
        />
      )}
      <Collapsible
        head={sentences.howTo}
        open={open}
        onOpenChange={setOpen}
        className="mt-1.5"
        headClass="text-[12px] text-ink-500"
      >
        <p className="mt-1 text-[12px] text-ink-500">{sentences.howToAsk}</p>
        <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-[12px]">
          {ways.map(([words, means]) => (
            <div key={words} className="contents">
              <dt className="font-semibold">{words}</dt>
              <dd className="text-ink-500">{means}</dd>
            </div>
          ))}
        </dl>
      </Collapsible>
    </>
  )
}

/** How much was found and where it was looked for, what it has in common, and what else there is. */
function Sum({
  asked,
  found,
  newest,
  setText,
  setNewest,
}: {
  asked: string
  found: FoundView
  newest: boolean
  setText: (text: string) => void
  setNewest: (newest: boolean) => void
}) {
  const { say } = useDesk()
  const look = useKey('look-early')
  const [keyOf] = useState(keyed)
  const n = digits(found.count)
  const gate = useGate()
  const { run } = useRegistry()
  const { accounts, unread, missing } = found.covers
  const keep = () => {
    const list = {
      id: 0,
      name: asked.slice(0, 60),
      query: found.reading.query,
      folded: false,
      counted: false,
      asked,
      rank: 0,
    }
    put('/lists', list, keyOf(list))
      .then(() => client.invalidateQueries({ queryKey: ['lists'] }))
      .then(() => say({ text: sentences.kept }))
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  }
  const narrow = (words: string) => setText(`${asked} ${words}`)
  const where = places.find((p) => p.id && p.id === found.reading.query.place)
  const nothing = !found.count && !found.others.length
  return (
    <div className="mt-1.5 text-[12px]" data-asked={asked}>
      <div className="grid gap-y-1 max-[700px]:hidden">
        <div className="flex items-end justify-between gap-x-4">
          <Counts name={sentences.people} counts={found.people} narrow={narrow} />
          <Years counts={found.years} narrow={narrow} />
        </div>
        <Counts name={sentences.kinds} counts={found.kinds} narrow={narrow} />
        <Counts name={sentences.labels} counts={found.labels} narrow={narrow} />
      </div>
      {found.others.length > 0 && (
        <section aria-label={sentences.others} className="mt-1.5" data-testid="others">
          <ul>
            {found.others.map((o) => (
              <li key={o.kind + (o.uid ?? o.id)} className="border-t border-sand-200 py-1">
                <Other o={o} />
              </li>
            ))}
          </ul>
        </section>
      )}
      {nothing && found.reading.marks.length > 0 && (
        <p className="mt-1.5 text-[13px]" data-testid="nothing">
          {where && found.reading.marks.length === 1 ? sentences.nothingIn(where.name) : sentences.nothing}{' '}
          {where && (
            <TextButton
              onClick={() =>
                setText(
                  without(
                    asked,
                    found.reading.marks.filter((m) => m.kind === 'place'),
                  ),
                )
              }
            >
              {sentences.lookEverywhere}
            </TextButton>
          )}
          {found.instead.length > 0 && (
            <span data-testid="instead">
              {sentences.didYouMean}{' '}
              {found.instead.map((x, i) => (
                <span key={x.word}>
                  {i > 0 && ` ${sentences.orWord} `}
                  <TextButton onClick={() => setText(x.asked)}>
                    {x.word}, {digits(x.count)}
                  </TextButton>
                </span>
              ))}
              ?
            </span>
          )}
        </p>
      )}
      {found.count > 0 && (
        <p className="mt-1.5" data-testid="sum">
          {found.more ? (newest ? sentences.newestOfMany(n) : sentences.moreThan(n)) : sentences.allOf(n)}
          {newest ? sentences.theNewestFirst : sentences.theBestFirst}{' '}
          <TextButton onClick={() => setNewest(!newest)}>
            {newest ? sentences.bestFirst : sentences.newestFirst}
          </TextButton>
          {' · '}
          {found.count > 1 && (
            <>
              <TextButton onClick={() => run('choose-all')}>{sentences.chooseAll}</TextButton>
              {' · '}
            </>
          )}
          <TextButton onClick={keep}>{sentences.keepThis}</TextButton>
        </p>
      )}
      <p className="mt-1 text-ink-500" data-testid="covers">
        {sentences.covers(plural(accounts, sentences.account))} {sentences.notCovered}{' '}
        <TextButton onClick={() => gate.open('look')}>{sentences.lookInHeld(look)}</TextButton>
        {missing > 0 &&
          ' ' + sentences.missing(missing >= 1000 ? digits(missing) + '+' : digits(missing), missing === 1)}
        {unread > 0 && ' ' + sentences.unreadFiles(digits(unread), unread === 1)}
      </p>
    </div>
  )
}

/** What some of what was found has in common: choosing one narrows to it. */
function Counts({ name, counts, narrow }: { name: string; counts: FoundCount[]; narrow: (words: string) => void }) {
  if (!counts.length) return null
  return (
    <section aria-label={name} className="min-w-0 flex-1">
      <h2 className="text-[12px] font-[650] text-ink-500">{name}</h2>
      <p className="leading-[1.5]">
        {counts.map((c, i) => (
          <span key={c.name}>
            {i > 0 && ' · '}
            <TextButton
              small
              tone="faint"
              aria-label={sentences.narrowTo(c.name, c.count)}
              onClick={() => narrow(c.words)}
            >
              {c.name} <b className="text-ink-900">{c.count}</b>
            </TextButton>
          </span>
        ))}
      </p>
    </section>
  )
}

/** The years, as bars as high as there is much of each. */
function Years({ counts, narrow }: { counts: FoundCount[]; narrow: (words: string) => void }) {
  if (!counts.length) return null
  const most = Math.max(...counts.map((c) => c.count))
  return (
    <section aria-label={sentences.years} className="shrink-0">
      <h2 className="text-[12px] font-[650] text-ink-500">{sentences.years}</h2>
      <div className="flex items-end gap-1">
        {counts.map((c) => (
          <TextButton
            key={c.name}
            small
            tone="faint"
            className="flex min-h-6 flex-col items-center justify-end"
            aria-label={sentences.narrowTo(c.name, c.count)}
            onClick={() => narrow(c.words)}
          >
            <span
              aria-hidden
              className="block w-4 rounded-t-[2px] bg-tide-400"
              style={{ height: 3 + Math.round((25 * c.count) / most) }}
            />
            {c.name.slice(2)}
          </TextButton>
        ))}
      </div>
    </section>
  )
}

const otherNames: Record<string, string> = {
  'follow-up': sentences.followUp,
  event: sentences.event,
  draft: sentences.draft,
  leaving: sentences.leaving,
}

/** Something that was found and is in no conversation. */
function Other({ o }: { o: FoundOther }) {
  const to =
    o.kind === 'follow-up'
      ? '/follow-ups/' + o.uid
      : o.kind === 'event'
        ? '/calendar?day=' + dayKey(o.at)
        : o.kind === 'draft'
          ? '/writing/' + o.id
          : '/writing'
  return (
    <Link to={to} className="block hover:underline">
      <b>{otherNames[o.kind]}</b> {o.title}
      {o.excerpt.some((p) => p.marked) && (
        <span className="block truncate text-ink-500">
          <Pieces pieces={o.excerpt} />
        </span>
      )}
    </Link>
  )
}
