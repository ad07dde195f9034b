import { type ReactNode, Suspense, useEffect, useMemo, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { get } from '../../api/client'
import type { Slip } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Place } from '../../api/gen/inbox'
import { afterPaint } from '../../api/paint'
import { conversationsAhead } from '../../api/queries'
import { called } from '../../api/names'
import { useMe } from '../../api/session'
import { slipOf, useSlip, wantSlips } from '../../api/slips'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands, useKey } from '../../frame/commands'
import { setClose, useClose } from '../../frame/density'
import { useDesk } from '../../frame/desk'
import { useSteady } from '../../frame/steady'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import type { Swipe } from '../../kit/touch'
import { Conversation } from './conversation'
import type { Tray } from './deciding'
import { Dock } from './dock'
import { sentences } from './sentences'
import { type Group, SlipList } from './sliplist'
import { namesOf, swipesOf } from './swipes'
import { throughDigest } from './through'
import { Digest, OpenTabs, WhyImportant } from './trays'

const LOOK_AFTER = 1000 // ms a conversation has to be shown for it to count as a look
const AHEAD = 3 // conversations fetched before they are asked for
const SLIPS_AHEAD = 30 // and slips

export interface WorktopProps {
  label: string
  place?: Place // where its conversations are, if all are in one
  groups: Group[]
  position: (n: number, total: number) => ReactNode
  head?: (open: (tray: Tray) => void, tray: Tray) => ReactNode
  foot?: (show: (id: number) => void, shown?: number) => ReactNode
  trays?: (tray: Tray, close: () => void, chosen: number[]) => ReactNode
  time?: (slip: Slip) => string
  onEnd?: () => void
  sitting?: number // its ID: only the first is decided, in turn
  wrap?: (id: number, slip: ReactNode) => ReactNode
  empty?: ReactNode // instead of a conversation, when there is none
  of?: string // what the queue is of, once it is there: another begins at its first
}

/** Where a conversation stands, by itself or in a digest, which are the last; -1 if it does not. */
function placeOf(ids: number[], id: number) {
  let at = ids.indexOf(id)
  for (let i = ids.length - 1; at < 0 && ids[i] < 0; i--) if (slipOf(ids[i])?.of?.includes(id)) at = i
  return at
}

const foldedKey = (label: string) => 'ebbe-folded-' + label
const remembered = (label: string) => new Set((localStorage.getItem(foldedKey(label)) ?? '').split('|').filter(Boolean))

/** Where conversations are decided: a queue, the reading column, and the dock. */
export function Worktop({
  label,
  place,
  groups,
  position,
  head,
  foot,
  trays,
  time,
  onEnd,
  sitting,
  wrap,
  empty,
  of,
}: WorktopProps) {
  const desk = useDesk()
  const navigate = useNavigate()
  const habits = useMe().habits
  const swipes = useMemo(() => swipesOf(habits), [habits])
  const named = useMemo(() => namesOf(swipes), [swipes])
  const leaveKey = useKey('leave')
  const [cursor, setCursor] = useState<number | undefined>(() => Number(fromAddress('at')) || undefined)
  const [beside, setBeside] = useState<number>() // shown from a list beside the queue
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set())
  const [folded, setFolded] = useState<ReadonlySet<string>>(() => remembered(label))
  const [opened, setOpened] = useOpened()
  const [tray, setTray] = useState(() => (sitting ? '' : fromAddress('tray')) as Tray)
  const [told, setTold] = useState<number>() // the next one, after a decision made elsewhere than in the list
  const anchor = useRef<number>(undefined)
  const close = useClose() && !sitting
  // Where the current one stood, for when it goes, and which one is shown without the cursor being at it.
  const [stood, setAt] = useState<{ index: number; id?: number }>({ index: 0 })
  const [was, setWas] = useState(of)
  const anew = of !== undefined && was !== undefined && of !== was
  if (of !== undefined && of !== was) setWas(of)
  if (anew) {
    setCursor(undefined)
    setBeside(undefined)
    setMarked(new Set())
  }
  const at: typeof stood = anew ? { index: 0 } : stood

  const ids = useMemo(() => {
    const shown = groups.filter((g) => !folded.has(g.key))
    return shown.length === 1 ? shown[0].ids : ([] as number[]).concat(...shown.map((g) => g.ids)) // copied as they are
  }, [groups, folded])
  const found = cursor === undefined || anew ? -1 : placeOf(ids, cursor)
  const still = found < 0 && at.id !== undefined ? ids.indexOf(at.id) : -1 // it stays the one shown, however the queue changes
  const index = sitting ? 0 : found >= 0 ? found : still >= 0 ? still : Math.min(at.index, ids.length - 1)
  const shown = found < 0 ? ids[index] : undefined
  if (index >= 0 && (index !== stood.index || shown !== stood.id)) setAt({ index, id: shown })
  const id = beside ?? ids[index]
  const slip = useSlip(id)
  useInAddress({ at: sitting || beside || id === undefined ? '' : String(id), tray: sitting ? '' : tray }, (was) => {
    if (Number(was('at'))) setCursor(Number(was('at')))
    setTray(was('tray') as Tray)
  })
  const chosen = useMemo(
    () => (marked.size ? groups.flatMap((g) => g.ids).filter((i) => marked.has(i)) : []),
    [groups, marked],
  )

  // Moving on without a decision, after having looked at it, is one more look.
  const shownSince = useRef({ id: 0, at: 0 })
  useEffect(() => {
    shownSince.current = { id: id ?? 0, at: performance.now() }
  }, [id])
  const leave = () => {
    const { id, at } = shownSince.current
    if (id && !close && slipOf(id)?.position.place === 'inbox' && performance.now() - at > LOOK_AFTER) desk.look(id)
  }
  const go = (next?: number) => {
    if (next === undefined) return
    if (sitting) return desk.say({ text: sentences.inASittingYou(leaveKey) })
    setBeside(undefined)
    if (next === id) return
    leave()
    setCursor(next)
  }
  const toggle = (i: number) => {
    anchor.current = i
    setMarked((m) => {
      const n = new Set(m)
      if (!n.delete(i)) n.add(i)
      return n
    })
  }
  const range = (to: number) => {
    const a = ids.indexOf(anchor.current ?? id ?? to)
    const b = ids.indexOf(to)
    if (a < 0 || b < 0) return
    setMarked((m) => new Set([...m, ...ids.slice(Math.min(a, b), Math.max(a, b) + 1)]))
  }
  const all = () => new Set(groups.flatMap((g) => g.ids))
  const choose = (list: number[]) => {
    const here = all()
    setMarked(new Set(list.filter((i) => here.has(i))))
  }
  const onSelect = useSteady((i: number, how: 'click' | 'toggle' | 'range') => {
    if (how === 'toggle' && !sitting) return toggle(i)
    if (how === 'range' && !sitting) return range(i)
    go(i)
    anchor.current = i
    setOpened(true)
  })
  const extend = (step: number) => {
    if (id === undefined || sitting) return
    const next = ids[index + step]
    setMarked((m) => {
      const n = new Set(m)
      if (next !== undefined && n.has(next) && n.has(id)) n.delete(id)
      else {
        n.add(id)
        if (next !== undefined) n.add(next)
      }
      return n
    })
    if (next !== undefined) setCursor(next)
  }
  const onAway = (gone: number[]) => {
    shownSince.current = { id: 0, at: 0 }
    setBeside(undefined)
    if (gone.length > 1 || marked.size) setMarked(new Set())
    const away = new Set(gone)
    if (id === undefined || !away.has(id) || (beside !== undefined && !away.has(ids[index]))) return
    let next: number | undefined
    for (let i = index + 1; i < ids.length && next === undefined; i++) if (!away.has(ids[i])) next = ids[i]
    for (let i = index - 1; i >= 0 && next === undefined; i--) if (!away.has(ids[i])) next = ids[i]
    setCursor(next)
    // A list that has the focus tells of the next one by itself.
    setTold(document.activeElement?.getAttribute('role') === 'listbox' ? undefined : next)
    if (next === undefined || marked.size) setOpened(false)
  }
  // What has gone elsewhere is not chosen any more.
  if (marked.size) {
    const here = all()
    const still = [...marked].filter((i) => here.has(i))
    if (still.length < marked.size) setMarked(new Set(still))
  }

  useEffect(
    () =>
      afterPaint(() => {
        const at = Math.max(index, 0)
        if (ids.slice(at, at + SLIPS_AHEAD / 2).some((i) => !slipOf(i))) wantSlips(ids.slice(at, at + 2 * SLIPS_AHEAD))
        conversationsAhead(
          ids.slice(index + 1, index + 1 + 3 * AHEAD).filter((i) => i > 0),
          AHEAD,
        )
      }),
    [index, ids],
  )

  const fold = (key: string) =>
    setFolded((f) => {
      const n = new Set(f)
      if (!n.delete(key)) n.add(key)
      localStorage.setItem(foldedKey(label), [...n].join('|'))
      return n
    })
  const groupOf = (i?: number) => groups.find((g) => i !== undefined && g.ids.includes(i))
  const unfold = () => {
    const here = groups.findIndex((g) => id !== undefined && g.ids.includes(id))
    const g =
      groups
        .slice(0, Math.max(here, 0))
        .reverse()
        .find((x) => folded.has(x.key)) ?? groups.find((x) => folded.has(x.key))
    if (!g) return
    fold(g.key)
    setCursor(g.ids[0])
  }
  const alike = (by: string) => {
    if (id === undefined) return
    get<number[]>(`/alike/${id}?by=${by}`)
      .then(choose)
      .catch((e: Error) => desk.say({ text: e.message, wrong: true }))
  }
  const join = () =>
    desk.act('/conversations/join', { conversations: chosen }).then((d) => {
      if (!d) return
      setMarked(new Set())
      if (d.first) setCursor(d.first)
    })
  const onSwipe = (i: number, way: Swipe) => {
    const what = swipes[way]
    if (what === 'snooze' || what === 'follow-up') {
      setCursor(i)
      setTray(what as Tray)
    } else {
      const s = slipOf(i)
      const kind = what === 'star' && s?.starred ? 'unstar' : what
      if (leavesQueue.has(kind)) onAway([i])
      void desk.decide({ kind, conversations: [i], seen: place, sitting })
    }
  }

  useCommands([
    { id: 'next', run: () => go(ids[index + 1]) },
    { id: 'previous', run: () => go(ids[index - 1]) },
    { id: 'first', run: () => go(ids[0]) },
    { id: 'last', run: () => go(ids.at(-1)) },
    {
      id: 'open',
      run: () => {
        if (id !== undefined) {
          leave()
          openAlone(id)
        }
      },
    },
    ...(sitting
      ? []
      : [
          { id: 'close-lines', run: () => setClose(!close) },
          {
            id: 'choose',
            run: () => {
              if (id !== undefined) toggle(id)
            },
          },
          { id: 'choose-down', run: () => extend(1) },
          { id: 'choose-up', run: () => extend(-1) },
          ...(place === 'inbox'
            ? [
                { id: 'choose-sender', run: () => alike('sender') },
                { id: 'choose-alike', run: () => alike('shape') },
              ]
            : []),
          { id: 'choose-group', run: () => choose(groupOf(id)?.ids ?? []) },
          { id: 'choose-all', run: () => choose(ids) },
          {
            id: 'fold',
            run: () => {
              const g = groupOf(id)
              if (g?.name && !folded.has(g.key)) fold(g.key)
            },
          },
          { id: 'unfold', run: unfold },
        ]),
    ...(chosen.length > 1 ? [{ id: 'join', run: () => void join() }] : []),
    ...(marked.size
      ? [{ id: 'choose-none', run: () => setMarked(new Set()) }]
      : opened || beside !== undefined
        ? [
            {
              id: 'back',
              run: () => {
                setOpened(false)
                setBeside(undefined)
              },
              hidden: true,
            },
          ]
        : []),
    { id: 'take-back', run: () => void desk.takeBack().then((d) => d?.first && setCursor(d.first)) },
    { id: 'again', run: () => void desk.again() },
  ])

  const openAlone = useSteady((i: number) => {
    const { of, stream = '' } = slipOf(i) ?? {}
    if (of) setCursor(of[0])
    void (of ? navigate(throughDigest(stream)) : navigate('/c/' + i, { state: { queue: true } }))
  })
  const swiped = useSteady(onSwipe)
  const besides = useSteady((i: number) => {
    leave()
    setBeside(i)
    setOpened(true)
  })
  const back = useSteady(() => {
    setOpened(false)
    setBeside(undefined)
  })
  const sender = called(slip?.from ?? '')
  return (
    <div className="flex h-full flex-col">
      <Suspense fallback={null}>
        <OpenTabs id={id} />
      </Suspense>
      <div className={cx('inbox-grid min-h-0 flex-1', opened && 'opened', close && 'close')}>
        <section
          aria-label={label}
          className={cx(
            'grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-r border-sand-200 bg-sand-50',
            opened && 'max-[700px]:hidden',
          )}
        >
          <div className="min-w-0">
            <h1 className="sr-only">{label}</h1>
            {head?.(setTray, tray)}
            {close && slip && (
              <Suspense fallback={null}>
                <WhyImportant slip={slip} />
              </Suspense>
            )}
          </div>
          <SlipList
            label={label}
            groups={groups}
            close={close}
            cursor={beside === undefined ? ids[index] : undefined}
            marked={marked}
            folded={folded}
            time={time}
            onEnd={onEnd}
            onSelect={onSelect}
            onOpen={openAlone}
            onFold={sitting ? undefined : fold}
            onWhole={sitting ? undefined : (g) => choose(g.ids)}
            onSwipe={swiped}
            swipes={named}
            wrap={wrap}
          />
          <div className="min-h-0 min-w-0">{foot?.(besides, beside)}</div>
        </section>
        {id !== undefined && close && !opened ? null : slip?.of ? (
          <Suspense fallback={<section className="reading-column bg-sand-0" />}>
            <Digest slip={slip} show={besides} back={back} onAway={onAway} />
          </Suspense>
        ) : id !== undefined && id > 0 ? (
          <Conversation id={id} slip={slip} back={back} edit={setTray} />
        ) : (
          <section
            aria-label={sentences.conversation}
            className="reading-column col-span-2 min-h-0 overflow-y-auto bg-sand-0 max-[1060px]:col-span-1"
          >
            {empty}
          </section>
        )}
        <Next id={told} />
        <Dock
          id={id}
          slip={slip}
          chosen={chosen}
          tray={tray}
          setTray={setTray}
          sitting={sitting}
          seen={beside === undefined ? place : undefined}
          onAway={onAway}
          trays={trays}
          position={position(index + 1, ids.length)}
          choosing={
            marked.size > 0 && (
              <>
                <b className="mr-1 whitespace-nowrap text-ink-900" data-testid="chosen">
                  {sentences.chosen(digits(chosen.length))}
                </b>
                {place === 'inbox' && (
                  <Pick onClick={() => alike('sender')}>{sentences.allFrom(sender || sentences.thisSender)}</Pick>
                )}
                {place === 'inbox' && <Pick onClick={() => alike('shape')}>{sentences.allLikeThis}</Pick>}
                <Pick onClick={() => choose(groupOf(id)?.ids ?? [])}>{sentences.itsGroup}</Pick>
                <Pick onClick={() => choose(ids)}>{sentences.everything}</Pick>
                {chosen.length > 1 && <Pick onClick={() => void join()}>{sentences.joinIntoOne}</Pick>}
                <Pick onClick={() => setMarked(new Set())}>{sentences.none}</Pick>
              </>
            )
          }
        />
      </div>
    </div>
  )
}

/** Tells whoever does not see it which conversation comes next. */
function Next({ id }: { id?: number }) {
  const slip = useSlip(id)
  return (
    <p aria-live="polite" className="sr-only" data-testid="next">
      {slip && sentences.next(slip.from, slip.title || slip.subject)}
    </p>
  )
}

const Pick = ({ onClick, children }: { onClick: () => void; children: ReactNode }) => (
  <Button size="small" ground="line" onClick={onClick}>
    {children}
  </Button>
)

const leavesQueue = new Set(['archive', 'bin'])

/** Whether one is reading, not choosing, where there is room for one of both only: a step of its own for Back. */
function useOpened() {
  const { pathname, state } = useLocation()
  const navigate = useNavigate()
  const opened = (state as { reading?: boolean } | null)?.reading === true
  const setOpened = (on: boolean) => {
    if (on === opened) return
    if (!on) void navigate(-1)
    else if (window.matchMedia('(max-width: 700px)').matches)
      void navigate(pathname + window.location.search, { state: { reading: true } })
  }
  return [opened, setOpened] as const
}
