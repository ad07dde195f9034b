import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { get } from '../../api/client'
import type { PersonLine, PersonView } from '../../api/desk'
import type { FollowUp } from '../../api/gen/followup'
import { date, dayKey, due, month, now, plural, short, size, span } from '../../api/times'
import { cameFromEbbe, fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { ToggleGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed, Waves } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { dueChip } from '../worktop/why'
import { bestHours, Dots, HoursOfDay, Months } from './drawing'
import { Remark } from './remark'
import { sentences } from './sentences'

/** All between the reader and somebody: what each owes, how they answer, and what went to and fro. */
export function Person() {
  const address = useParams().address ?? ''
  const { data, error, refetch } = useQuery({
    queryKey: ['person', address],
    queryFn: () => get<PersonView>('/person?address=' + encodeURIComponent(address)),
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  if (!data.lines.length && !data.mine.length && !data.theirs.length)
    return <Empty title={sentences.nothing}>{sentences.nothingWith(data.address)}</Empty>
  return <Shown key={data.address} p={data} />
}

const kinds = {
  all: () => true,
  mail: (l: PersonLine) => l.kind === 'message',
  'follow-ups': (l: PersonLine) => l.kind === 'follow-up',
  files: (l: PersonLine) => !!l.files,
  events: (l: PersonLine) => l.kind === 'event',
}
type Kind = keyof typeof kinds
const options: { id: Kind; name: string }[] = [
  { id: 'all', name: sentences.all },
  { id: 'mail', name: sentences.mail },
  { id: 'follow-ups', name: sentences.followUps },
  { id: 'files', name: sentences.files },
  { id: 'events', name: sentences.events },
]
const kindIn = (text: string): Kind => options.find((o) => o.id === text)?.id ?? 'all'

function Shown({ p }: { p: PersonView }) {
  const navigate = useNavigate()
  const [kind, setKind] = useState(() => kindIn(fromAddress('kind')))
  const [at, setAt] = useState(0)
  useInAddress({ kind: kind === 'all' ? '' : kind }, (was) => setKind(kindIn(was('kind'))))
  const lines = p.lines.filter(kinds[kind])
  const open = p.mine.length + p.theirs.length
  const dated = [...p.mine, ...p.theirs].filter((f) => f.due.at > 0).length
  const best = bestHours(p.answers.hours)
  const one = Math.min(at, lines.length - 1)
  const go = (n: number) => setAt(Math.min(lines.length - 1, Math.max(0, n)))
  const openLine = (l: PersonLine | undefined) => l && void navigate(pathOf(l))
  useCommands([
    { id: 'next', run: () => go(one + 1) },
    { id: 'previous', run: () => go(one - 1) },
    { id: 'first', run: () => go(0) },
    { id: 'last', run: () => go(lines.length - 1) },
    { id: 'open', run: () => openLine(lines[one]) },
    { id: 'back', run: () => void (cameFromEbbe() ? navigate(-1) : navigate('/find')) },
  ])
  return (
    <div className="person-grid" data-testid="person">
      <div className="min-h-0 overflow-y-auto px-7 py-5 max-[700px]:px-4">
        <Heading>{p.name || p.address}</Heading>
        <p className="mt-0.5 text-[12.5px] break-words text-ink-500">
          {[p.name && p.address, sentences.counts(p.received, p.sent), p.since > 0 && sentences.since(month(p.since))]
            .filter(Boolean)
            .join(' · ')}
        </p>
        <Remark address={p.address} text={p.remark} />
        <div className="mt-4 mb-5 grid grid-cols-2 gap-4 max-[1100px]:grid-cols-1">
          <Owed
            name={sentences.youOwe}
            tone="text-coral-600"
            none={sentences.noneOfMine}
            followUps={p.mine}
            waits={p.waits}
          />
          <Owed
            name={sentences.theyOwe}
            tone="text-plum-600"
            none={sentences.noneOfTheirs}
            followUps={p.theirs}
            waits={[]}
          />
        </div>
        {open > 0 && (
          <p className="-mt-2 mb-4 text-[12.5px] text-ink-500" data-testid="open-dated">
            {[
              sentences.openDated(plural(open, sentences.followUpCount), dated),
              p.moved > 0 && sentences.moved(p.moved === 1 ? sentences.once : sentences.times(p.moved)),
            ]
              .filter(Boolean)
              .join(' ')}
          </p>
        )}
        <h2 className="mb-1.5 text-[13.5px] font-[650]">{sentences.howYouAnswer}</h2>
        <p className="mb-2 text-ink-700" data-testid="answers">
          {[usually(p), best && sentences.mostlyAt(...best)].filter(Boolean).join(' ')}
        </p>
        {p.answers.theirs.length > 0 && <HoursOfDay hours={p.answers.hours} />}
        {p.answers.own.length + p.answers.theirs.length > 0 && <Dots own={p.answers.own} theirs={p.answers.theirs} />}
        <h2 className="mt-5 mb-1.5 text-[13.5px] font-[650]">{sentences.byMonth}</h2>
        <Months months={p.months} />
      </div>
      <section
        aria-label={sentences.list}
        className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-l border-sand-200 bg-sand-0 max-[700px]:border-t max-[700px]:border-l-0"
      >
        <div className="px-5 pt-5 pb-2.5 max-[700px]:px-4">
          <ToggleGroup
            label={sentences.kinds}
            value={kind}
            none={options[0].id}
            options={options}
            onChange={(k) => {
              setKind(k)
              setAt(0)
            }}
          />
        </div>
        <List label={sentences.list} empty={!lines.length} className="min-h-0 overflow-y-auto">
          {lines.map((l, i) => (
            <Row
              key={l.kind + (l.uid ?? l.conversation)}
              title={l.title}
              current={i === one}
              className="grid grid-cols-[58px_minmax(0,1fr)_auto] items-center gap-2 px-5 py-2 text-[13px] max-[700px]:px-4"
              onChoose={() => setAt(i)}
              onOpen={() => openLine(l)}
            >
              <span className="text-[12px] text-ink-500">
                {l.at > now() ? date(l.at).replace(/^\w+ /, '') : short(l.at)}
              </span>
              <span className="min-w-0">
                <Link to={pathOf(l)} className="block truncate font-semibold hover:underline">
                  {l.title || sentences.noSubject}
                </Link>
                <span className="block truncate text-[12px] text-ink-500">{about(l)}</span>
              </span>
              <State l={l} />
            </Row>
          ))}
          {!lines.length && <p className="px-5 text-ink-500">{sentences.nothingOfIt}</p>}
        </List>
        <p className="flex flex-wrap gap-x-4 gap-y-1 border-t border-sand-200 px-5 py-2.5 text-[12.5px] max-[700px]:px-4">
          {p.files > 0 && (
            <Link to={`/person/${encodeURIComponent(p.address)}/files`} className="text-accent hover:underline">
              {sentences.allFiles(plural(p.files, sentences.file), size(p.bytes))}
            </Link>
          )}
          <Link to={'/find?asked=' + encodeURIComponent('with ' + p.address)} className="text-accent hover:underline">
            {sentences.findThem}
          </Link>
          {p.more && <span className="text-ink-500">{sentences.older}</span>}
        </p>
      </section>
    </div>
  )
}

const pathOf = (l: PersonLine) =>
  l.kind === 'follow-up'
    ? '/follow-ups/' + encodeURIComponent(l.uid ?? '')
    : l.kind === 'event' && !l.conversation
      ? '/calendar?day=' + dayKey(l.at)
      : '/c/' + l.conversation

const about = (l: PersonLine) =>
  l.kind === 'message'
    ? [l.own ? sentences.you : sentences.they, l.files && plural(l.files, sentences.file)].filter(Boolean).join(', ')
    : l.kind === 'event'
      ? sentences.event
      : sentences.followUp

function State({ l }: { l: PersonLine }) {
  if (l.waits) return <Chip tone="with">{sentences.waits}</Chip>
  if (l.done) return <Chip tone="done">{sentences.done}</Chip>
  if (l.kind !== 'message' || !l.place || l.place === 'archived') return null
  return <Chip tone={l.place === 'inbox' ? 'tide' : 'plain'}>{sentences[l.place]}</Chip>
}

/** How both usually answer, in a sentence. */
function usually({ answers: a }: PersonView) {
  const they = a.theirsUsual > 0 ? (a.ownUsual > 0 ? sentences.theyUsually : sentences.theyUsuallyAlone) : null
  const parts = [a.ownUsual > 0 && sentences.youUsually(span(a.ownUsual)), they?.(span(a.theirsUsual))].filter(Boolean)
  return parts.length ? parts.join(', ') + '.' : sentences.noAnswers
}

/** What one owes the other: follow-ups, and mail that lies in the inbox. */
function Owed({
  name,
  tone,
  none,
  followUps,
  waits,
}: {
  name: string
  tone: string
  none: string
  followUps: FollowUp[]
  waits: PersonLine[]
}) {
  return (
    <section aria-label={name} className="rounded-[12px] bg-sand-100 px-3.5 py-3">
      <h2 className={`mb-1.5 text-[14px] font-[650] ${tone}`}>{name}</h2>
      <ul>
        {followUps.map((f) => (
          <li key={f.uid} className="border-t border-sand-200">
            <Link
              to={'/follow-ups/' + encodeURIComponent(f.uid)}
              className="flex items-center gap-2 py-1.5 hover:underline"
            >
              <Waves priority={f.priority} />
              <b className="min-w-0 flex-1 truncate font-semibold">{f.title}</b>
              {f.due.at > 0 && <Chip tone={dueChip(f.due).tone}>{due(f.due)}</Chip>}
            </Link>
          </li>
        ))}
        {waits.map((l) => (
          <li key={l.conversation} className="border-t border-sand-200">
            <Link to={'/c/' + l.conversation} className="block py-1.5 hover:underline">
              <b className="block truncate font-semibold">{l.title}</b>
              <span className="text-[12px] text-ink-500">{sentences.inInbox(short(l.at))}</span>
            </Link>
          </li>
        ))}
      </ul>
      {followUps.length + waits.length === 0 && <p className="text-[12.5px] text-ink-500">{none}</p>}
    </section>
  )
}
