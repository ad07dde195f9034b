import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { get } from '../../api/client'
import type { PeopleTable, PersonRow } from '../../api/desk'
import { now, plural, short, span } from '../../api/times'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { took } from './answers'
import { TextLink } from './more'
import { sentences } from './sentences'
import { type Column, Table } from './table'
import { Views } from './views'

const since = (at = 0) => (at ? Math.max(1, now() - at) : 0)

const columns: Column<PersonRow>[] = [
  {
    id: 'name',
    name: sentences.person,
    worth: (r) => r.name || r.address,
    show: (r) => <TextLink to={pathOf(r)}>{r.name || r.address}</TextLink>,
  },
  {
    id: 'for-me',
    name: sentences.waitsForYou,
    worth: (r) => since(r.waitForMeSince),
    show: (r) => !!r.waitForMeSince && <b className="text-coral-600">{span(since(r.waitForMeSince))}</b>,
  },
  {
    id: 'for-them',
    name: sentences.youWait,
    worth: (r) => since(r.waitForThemSince),
    show: (r) => !!r.waitForThemSince && <b className="text-plum-600">{span(since(r.waitForThemSince))}</b>,
  },
  { id: 'owed', name: sentences.youOweThem, worth: (r) => (r.own.owed ?? 0) + (r.waitForMe ?? 0) },
  { id: 'they-owe', name: sentences.theyOweYou, worth: (r) => r.theirs.owed ?? 0 },
  { id: 'dated', name: sentences.dated, worth: (r) => r.dated ?? 0, wide: true },
  { id: 'moved', name: sentences.putOff, worth: (r) => r.moved ?? 0, wide: true },
  {
    id: 'own-speed',
    name: sentences.youWithin,
    worth: (r) => (r.own.n ? Math.max(1, r.own.work ?? 0) : 0),
    show: (r) => !!r.own.n && took(r.own.work ?? 0),
  },
  {
    id: 'their-speed',
    name: sentences.theyWithin,
    worth: (r) => (r.theirs.n ? Math.max(1, r.theirs.work ?? 0) : 0),
    show: (r) => !!r.theirs.n && took(r.theirs.work ?? 0),
  },
  { id: 'unanswered', name: sentences.notAnsweredYou, worth: (r) => r.unanswered ?? 0, wide: true },
  { id: 'received', name: sentences.fromThem, worth: (r) => r.received, wide: true },
  { id: 'sent', name: sentences.toThem, worth: (r) => r.sent, wide: true },
  { id: 'last', name: sentences.lastWrote, worth: (r) => r.last, show: (r) => r.last > 0 && short(r.last) },
]

const pathOf = (r: PersonRow) => '/person/' + encodeURIComponent(r.address)

/** Everybody with whom the reader exchanges anything, sorted by any of what stands between them. */
export function People() {
  const navigate = useNavigate()
  const { data, error, refetch } = useQuery({
    queryKey: ['figures', 'people'],
    queryFn: () => get<PeopleTable>('/figures/people'),
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto px-6 py-4 max-[700px]:px-3.5" data-testid="people">
      <Views />
      <div className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <Heading>{sentences.people}</Heading>
        <p className="min-w-64 flex-1 text-ink-700" data-testid="said">
          {said(data)}
        </p>
      </div>
      {data.rows.length ? (
        <Table
          name={sentences.people}
          file="people"
          columns={columns}
          rows={data.rows}
          keyOf={(r) => r.address}
          open={(r) => void navigate(pathOf(r))}
          sort="for-me"
          testid="people-table"
        />
      ) : (
        <Empty title={sentences.nobodyYet}>{sentences.nobodyWrote}</Empty>
      )}
    </div>
  )
}

/** Who waits longest, and for whom one waits longest. */
function said(v: PeopleTable) {
  if (v.counting) return sentences.answersCounting
  const first = (of: (r: PersonRow) => number) =>
    v.rows.reduce<PersonRow | undefined>((best, r) => (of(r) > 0 && (!best || of(r) < of(best)) ? r : best), undefined)
  const name = (r: PersonRow) => r.name || r.address
  const mine = first((r) => r.waitForMeSince ?? 0)
  const theirs = first((r) => r.waitForThemSince ?? 0)
  return [
    mine ? sentences.waitsLongest(name(mine), span(since(mine.waitForMeSince))) : sentences.nobodyWaits,
    theirs && sentences.youWaitLongest(name(theirs), span(since(theirs.waitForThemSince))),
    sentences.ofTheYear(plural(v.rows.length, sentences.oneWhom, sentences.manyWhom)),
  ]
    .filter(Boolean)
    .join(' ')
}
