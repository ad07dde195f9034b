import { Suspense, useMemo, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { root, team } from '../../api/base'
import { digits } from '../../api/digits'
import type { Query } from '../../api/gen/search'
import { type Arranged, useDeliveryState, useLabels, useQueue, useSitting } from '../../api/queries'
import { dateOf } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { useSteady } from '../../frame/steady'
import { TextButton } from '../../kit/button'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import type { Tray } from '../worktop/deciding'
import { DockSide } from '../worktop/dock'
import type { Group } from '../worktop/sliplist'
import { kindName, sectionName } from '../worktop/why'
import { Worktop } from '../worktop/worktop'
import { filtered, groupings, orderings } from './arranged'
import { useBegin } from './beginning'
import { QueueHead } from './head'
import { sentences } from './sentences'
import { SittingHead, useSittingSteps } from './sitting'
import { ArrangeTray, Begin, FirstSteps, FreshStartTray, ListTray, SitTray, Strips, Sum, Zero } from './trays'

const usual: Arranged = { group: team ? 'owner' : 'why', order: 'newest', where: {} }
const STORED = 'ebbe-arranged' + root
function stored(): Arranged {
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem(STORED) ?? '{}') as Partial<Arranged>), where: {} }
  } catch {
    return usual
  }
}

/** A filter as it stands in the address; what cannot be read filters nothing. */
function readQuery(text: string | null): Query {
  try {
    const query: unknown = JSON.parse(text ?? '{}')
    return query && typeof query === 'object' && !Array.isArray(query) ? (query as Query) : {}
  } catch {
    return {}
  }
}

/** The queue, the reading column, and the dock: one decision each. */
export function Inbox() {
  const [arranged, setArranged] = useState(stored)
  const [params, setParams] = useSearchParams()
  const from = params.get('from') ?? undefined // from the screen of the senders
  const asked = params.get('where')
  const where = useMemo<Query>(() => ({ ...readQuery(asked), ...(from && { from }) }), [asked, from])
  const queue = useQueue({ ...arranged, where })
  const sitting = useSitting().data
  const { end } = useSittingSteps()
  const { data: labels } = useLabels()
  const own = useDeliveryState()?.own
  const desk = useDesk()
  const navigate = useNavigate()
  const arrange = (a: Partial<Arranged>) => {
    const next = { ...arranged, ...a, where: {} } // by what it is filtered stands in the address
    localStorage.setItem(STORED, JSON.stringify({ group: next.group, order: next.order }))
    setArranged(next)
    if (a.where) setParams(Object.keys(a.where).length ? { where: JSON.stringify(a.where) } : {})
  }
  const showAll = useSteady(() => arrange({ where: {} }))
  const sits = !!sitting?.id && !sitting.ended
  const [sum, setSum] = useState(0) // the sitting whose sum is shown
  const data = queue.data
  const groups = useMemo<Group[]>(() => {
    if (sits) return [{ key: 'sitting', name: '', ids: sitting.queue }]
    return (
      data?.groups.map((g) => ({
        key: g.key,
        name: groupName(data.group, g.key, g.name),
        count: g.count,
        ids: g.ids,
      })) ?? []
    )
  }, [data, sits, sitting])
  const stop = () => void end().then((s) => s && setSum(s.id))

  useCommands([
    ...(where.together ? [{ id: 'back', run: showAll, hidden: true }] : []),
    ...(sits
      ? [{ id: 'end-sitting', run: stop }]
      : [
          {
            id: 'rest',
            run: () => void desk.decide({ kind: 'rest', where: { ...where, starred: undefined, unstarred: true } }),
          },
        ]),
  ])

  const begin = useBegin(data?.left ?? -1)
  if (queue.error && !data) return <Failed error={queue.error} again={() => void queue.refetch()} />
  if (!data || !sitting) return <Loading what={sentences.loadingTheInbox} />
  const filter = filtered(where, labels ?? [], own)
  const trays = (tray: Tray, close: () => void, chosen: number[]) => {
    if (tray === 'arrange') return <ArrangeTray arranged={{ ...arranged, where }} onArrange={arrange} onClose={close} />
    if (tray === 'sit')
      return (
        <SitTray
          where={where}
          filter={filter}
          shown={data.shown}
          chosen={chosen}
          onClose={close}
          onBegun={() => setSum(0)}
        />
      )
    if (tray === 'fresh-start') return <FreshStartTray onClose={close} />
    if (tray === 'list') return <ListTray where={where} onClose={close} />
    return null
  }
  if (sits && !sitting.queue.length)
    return (
      <Alone side="Nothing left in this sitting">
        <Sum sitting={sitting} over onEnd={() => void end()} />
      </Alone>
    )
  if (sum && sitting.id === sum && sitting.ended)
    return (
      <Alone side="The sitting is over">
        <Sum sitting={sitting} onEnd={() => setSum(0)} />
      </Alone>
    )
  if (begin.connect || begin.comes)
    return (
      <Alone side="">
        <Begin begin={begin} />
      </Alone>
    )
  if (!data.left) {
    return (
      <Alone side="Nothing left to decide">
        <div className="relative grid min-h-0">
          <Zero />
          <div className="absolute bottom-0 left-0 w-[324px] max-w-full border-r border-sand-300 max-[700px]:w-full">
            <Suspense fallback={null}>
              <Strips show={(id) => void navigate('/c/' + id)} />
            </Suspense>
          </div>
        </div>
      </Alone>
    )
  }
  return (
    <div className="flex h-full flex-col">
      {(begin.keys || begin.plan) && (
        <Suspense fallback={null}>
          <FirstSteps begin={begin} />
        </Suspense>
      )}
      <div className="min-h-0 flex-1">
        <Worktop
          label={sits ? sentences.sitting : sentences.leftToDecide}
          place="inbox"
          groups={groups}
          sitting={sits ? sitting.id : undefined}
          position={(n, total) =>
            sits
              ? sentences.placeOf(sitting.total - sitting.queue.length + 1, sitting.total)
              : total
                ? sentences.ofNamed(digits(n), digits(total))
                : ''
          }
          head={(open, tray) =>
            sits ? (
              <SittingHead sitting={sitting} onEnd={stop} />
            ) : (
              <QueueHead
                words={`${groupings[arranged.group]}, ${orderings[arranged.order]}`}
                grouped={data.group}
                filter={filter}
                tray={tray}
                open={open}
                shown={filter ? data.shown : 0}
                onShowAll={showAll}
              />
            )
          }
          foot={(show, shown) =>
            !sits && (
              <Suspense fallback={null}>
                <Strips show={show} shown={shown} />
              </Suspense>
            )
          }
          trays={trays}
          empty={
            <p className="px-8 py-16 text-center text-ink-500">
              {filter ? sentences.nothingMatches(filter) : sentences.nothingLeftHere}{' '}
              <TextButton onClick={showAll}>{sentences.showAllNamed(digits(data.left))}</TextButton>
            </p>
          }
        />
      </div>
    </div>
  )
}

function Alone({ side, children }: { side: string; children: React.ReactNode }) {
  return (
    <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
      {children}
      <div className="relative flex min-h-[60px] items-center border-t border-sand-300 bg-sand-100 px-4 py-[11px]">
        <DockSide position={side} />
      </div>
    </div>
  )
}

const kindGroups: Record<string, string> = {
  person: sentences.fromPeopleTitle,
  list: sentences.listsTitle,
  notice: sentences.noticesTitle,
  receipt: sentences.receiptsTitle,
  invitation: sentences.invitationsTitle,
  bounce: sentences.undelivered,
}
const importanceGroups: Record<string, string> = {
  high: sentences.mostLikelyYours,
  middle: sentences.inBetween,
  low: sentences.least,
}
function groupName(group: string, key: string, name: string) {
  if (key === 'together') return sentences.together
  switch (group) {
    case 'sender':
      return name || key || sentences.unknownSender
    case 'subject':
      return name || '(no subject)'
    case 'kind':
      return kindGroups[key] ?? kindName(key) ?? key
    case 'account':
      return key || sentences.toNoneOfYour
    case 'stream':
    case 'owner':
      return name
    case 'importance':
      return importanceGroups[key] ?? key
    case 'day':
      return key === 'older' ? 'Earlier' : dateOf(key)
  }
  return sectionName(key)
}
