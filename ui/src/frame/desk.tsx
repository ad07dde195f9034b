import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { useNavigate } from 'react-router'
import { team } from '../api/base'
import { mine, newKey, post, told as inWords, wasMine } from '../api/client'
import type { Decision, FollowUpStep } from '../api/desk'
import type { Place } from '../api/gen/inbox'
import type { Decided } from '../api/gen/journal'
import { afterPaint, painted } from '../api/paint'
import { answered, changeSlips, client, ebbAway, ebbBack, lists, refresh, refreshSoon } from '../api/queries'
import { pause } from '../api/reach'
import { heard, since } from '../api/run'
import { askForSession } from '../api/session'
import { digestsOf, slipOf, whole } from '../api/slips'
import { Decisions, type Outcome } from './decisions'
import { listen } from './events'
import { useKept } from './kept'
import { noteNotice } from './noted'
import { leads, leadsAway, notifyOutside } from './outside'

/** A sentence about what just happened. */
export interface Notice {
  text: string
  wrong?: boolean
  undo?: boolean
  path?: string // where it leads
  away?: boolean // which is in another box
}

/** What is done with follow-ups. */
export type Step = Omit<FollowUpStep, 'uids' | 'kind'> & { kind: string }

/** What is decided, about which conversations, and where they were seen. */
export type Deciding = Partial<Omit<Decision, 'kind'>> & { kind: string }

interface Desk {
  say: (notice: Notice) => void
  /** away says that it takes the conversations out of the queue, where the kind alone does not. */
  decide: (decision: Deciding, away?: boolean) => Promise<Decided | null>
  look: (id: number) => void
  step: (uid: string | string[], step: Step) => Promise<Decided | null>
  takeBack: (entry?: number) => Promise<Decided | null>
  again: () => Promise<Decided | null>
  /** Posts something else that changes mail: a place, a label that goes. */
  act: (path: string, body?: unknown) => Promise<Decided | null>
  /** When all that was decided has been answered. */
  settled: () => Promise<unknown>
}

// What changes while one decides stands apart, so that what only decides is not drawn anew for it.
interface Told {
  notice: Notice | null
  /** It has been read: what has waited comes next. */
  read: (notice: Notice) => void
}
interface Standing {
  live: boolean
  waiting: number // decisions that wait until the program can be reached
}

const Context = createContext<Desk | null>(null)
export const useDesk = () => useContext(Context)!
const Tells = createContext<Told | null>(null)
/** What was just done. */
export const useTold = () => useContext(Tells)!
const Stands = createContext<Standing | null>(null)
/** Whether the program can be reached. */
export const useStanding = () => useContext(Stands)!

/** Where a decision puts what it is about. */
const goes: Record<string, Place> = {
  bin: 'bin',
  archive: 'archived',
  silence: 'archived',
  snooze: 'snoozed',
  inbox: 'inbox',
}
const leaves = new Set(['bin', 'archive', 'silence', 'snooze', 'rest', 'fresh-start'])

/** Sends what the user decides, one after the other, and keeps what is shown in step with it. */
export function DeskProvider({ children }: { children: ReactNode }) {
  const [notice, show] = useState<Notice | null>(null)
  const sentences = useRef(0)
  const untold = useRef<Notice[]>([]) // what happened by itself, said when nothing else is
  const said = useRef<Notice | null>(null) // as it is shown
  useLayoutEffect(() => {
    said.current = notice
  })
  const next = () => untold.current.shift() ?? null
  const say = useCallback((n: Notice) => {
    sentences.current++
    show(n)
  }, [])
  const read = useCallback((n: Notice) => show((shown) => (shown === n ? next() : shown)), [])
  const [live, setLive] = useState(true)
  const [waiting, setWaiting] = useState(0)
  const kept = useKept()
  const [decisions] = useState(
    () => new Decisions({ post, kept, painted, pause, newKey: () => mine(newKey()), waiting: setWaiting }),
  )
  const named = useRef(0) // what Ctrl Z would take back if it is pressed again
  const leaving = useRef(new Set<number>()) // conversations whose decision is on its way

  const outcome = useCallback(
    (done: (d: Decided) => void, back = () => {}): Outcome => ({
      done,
      refused: (e) => {
        back() // what was refused is where it was; what was decided besides stays decided
        say({ text: inWords(e), wrong: true })
        refresh(['mail', 'followups', 'cards'])
      },
    }),
    [say],
  )
  const send = useCallback(
    (path: string, body: unknown, done: (d: Decided) => void, back?: () => void) => {
      if (!path.endsWith('take-back')) named.current = 0
      return decisions.send(path, body, outcome(done, back))
    },
    [decisions, outcome],
  )

  useEffect(() => {
    let gone = false
    void kept.decided().then((list) => {
      if (!gone) decisions.resume(list, () => outcome(() => refresh(['mail', 'followups', 'cards'])))
    })
    return () => {
      gone = true
    }
  }, [decisions, kept, outcome])

  /** Says what was done; what can be taken back is named by that. */
  const sayDone = useCallback(
    ({ text, entry, named: asked = 0 }: Decided, undo = true) => {
      named.current = asked || (undo ? entry : 0)
      if (text) say({ text, undo: undo && entry > 0 })
    },
    [say],
  )

  const decide = useCallback(
    (given: Deciding, takes = false) => {
      const d = { ...given, conversations: whole(given.conversations ?? []) }
      const moves = leaves.has(d.kind) || (d.kind === 'follow-up' && !d.followUp?.keep) || takes
      const away = moves || d.kind === 'leave'
      if (d.conversations.length && d.conversations.every((id) => leaving.current.has(id))) return Promise.resolve(null) // it has been decided already
      if (away) for (const id of d.conversations) leaving.current.add(id)
      const before = lists()
      const slips = d.conversations.map((id) => slipOf(id))
      const old = said.current // it is about the one before, and goes when the next one is painted
      afterPaint(() => show((n) => (n === old ? null : n)))
      const mine = ++sentences.current
      const digests = digestsOf(d.conversations)
      const gone = [...d.conversations, ...digests.filter((x) => !x.rest.length).map((x) => x.id)]
      if (away) {
        for (const { id, rest } of digests) if (rest.length) changeSlips([id], { of: rest })
        ebbAway(gone, d.kind === 'leave')
      }
      const place = goes[d.kind] ?? (moves && d.kind === 'follow-up' ? 'archived' : undefined)
      if (place)
        for (const id of d.conversations) {
          const slip = slipOf(id)
          if (slip) changeSlips([id], { position: { ...slip.position, place } })
        }
      if (d.kind === 'star' || d.kind === 'unstar') changeSlips(d.conversations, { starred: d.kind === 'star' })
      if (d.kind === 'unread' || d.kind === 'read') changeSlips(d.conversations, { unread: d.kind === 'unread' })
      return send(
        '/decisions',
        d,
        (decided) => {
          answered(gone, false)
          if (sentences.current === mine) sayDone(decided) // else something newer was said
          // What was taken out of the queue is already right there; reading it anew while
          // further decisions are on their way would bring slips back for a moment.
          const except =
            decisions.pending > 0
              ? ['inbox', 'sitting']
              : away && !decided.stale && !digests.length && d.conversations.length > 0 && d.kind !== 'combo'
                ? ['inbox']
                : []
          if (d.kind === 'important' || d.kind === 'unimportant') return refresh(['mail']) // it moves others
          refreshSoon(
            d.kind === 'follow-up' || d.kind === 'combo' ? ['mail', 'followups'] : ['mail'],
            except,
            d.conversations,
          )
        },
        () => {
          ebbBack(gone, before)
          for (const slip of slips)
            if (slip) changeSlips([slip.id], { position: slip.position, starred: slip.starred, unread: slip.unread })
          for (const { id, of } of digests) changeSlips([id], { of })
        },
      ).finally(() => {
        for (const id of d.conversations) leaving.current.delete(id)
      })
    },
    [send, sayDone, decisions],
  )

  const look = useCallback(
    (id: number) => {
      changeSlips([id], { unread: false })
      void send('/looks/' + id, {}, () => {
        if (decisions.pending === 0)
          refresh(
            ['mail'],
            [
              'inbox',
              'sitting',
              'conversation',
              'found',
              'later',
              'dayline',
              'tide',
              'grid',
              'days',
              'senders',
              'lists',
            ],
            [id],
          )
      })
    },
    [send, decisions],
  )

  const step = useCallback(
    (uid: string | string[], s: Step) =>
      send('/follow-ups/steps', { ...s, uids: Array.isArray(uid) ? uid : [uid] }, (decided) => {
        sayDone(decided)
        refresh(['followups', 'cards', ...(s.kind === 'finish' || s.kind === 'stage' ? ['mail'] : [])])
      }),
    [send, sayDone],
  )

  const revert = useCallback(
    (path: string, undo = false, body: unknown = {}) =>
      send(path, body, (decided) => {
        sayDone(decided, undo)
        if (decided.named) return // nothing was changed
        refresh([
          'mail',
          'followups',
          'cards',
          'labels',
          'sitting',
          'calendar',
          'outbox',
          'delivery',
          'accounts',
          'person',
        ])
      }),
    [send, sayDone],
  )

  const navigate = useNavigate()
  const go = useRef(navigate)
  useEffect(() => {
    go.current = navigate
  })
  const tell = useCallback((text: string, inside: string, away: string) => {
    const path = away || inside
    notifyOutside(text, () => (away ? window.location.assign(away) : void go.current(path)))
    noteNotice(text)
    untold.current.push({ text, path, away: !!away })
    show((shown) => shown ?? next())
  }, [])
  useEffect(
    () =>
      listen({
        hello: (again) => {
          setLive(true)
          if (again) void client.invalidateQueries()
        },
        changed: (e) => {
          if (e.key) heard(e.key)
          if (e.key && wasMine(e.key)) return
          if (e.notice) tell(e.notice, leads(e), leadsAway(e))
          refresh(e.topics, [], e.conversations)
        },
        lost: () => {
          setLive(false)
          void askForSession() // it may be over
          if (team) void client.invalidateQueries({ queryKey: ['boxes'] }) // or one is no member any more
        },
      }),
    [tell],
  )

  const value = useMemo<Desk>(
    () => ({
      say,
      decide,
      look,
      step,
      takeBack: (entry?: number) =>
        entry
          ? revert(`/entries/${entry}/take-back`)
          : revert('/take-back', false, { since: since(), named: named.current }),
      again: () => revert('/again'),
      act: (path, body) => revert(path, true, body),
      settled: () => decisions.settled,
    }),
    [decide, look, step, revert, say, decisions],
  )
  const told = useMemo<Told>(() => ({ notice, read }), [notice, read])
  const standing = useMemo<Standing>(() => ({ live, waiting }), [live, waiting])
  return (
    <Context value={value}>
      <Stands value={standing}>
        <Tells value={told}>{children}</Tells>
      </Stands>
    </Context>
  )
}
