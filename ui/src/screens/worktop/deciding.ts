import { team } from '../../api/base'
import { type ReactNode, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Slip } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Turn } from '../../api/gen/together'
import type { Chain, ComboStep, Place } from '../../api/gen/inbox'
import { conversationHere } from '../../api/queries'
import { useMe } from '../../api/session'
import { slipOf, whole } from '../../api/slips'
import { DOCK, useCommands } from '../../frame/commands'
import { type Deciding, useDesk } from '../../frame/desk'
import { useKept } from '../../frame/kept'
import { useTwoMinutes } from './twominutes'
import { sentences } from './sentences'
import { useLetThrough } from './through'

export interface Props {
  id?: number // of the conversation shown; its slip may still be on its way
  slip?: Slip
  chosen?: number[] // many, decided together instead of the one shown
  choosing?: ReactNode // what can be done about the choice of many
  tray: Tray
  setTray: (t: Tray) => void
  trays?: (tray: Tray, close: () => void, chosen: number[]) => ReactNode
  position?: ReactNode
  sitting?: number
  seen?: Place // where the list shows all its conversations to be
  /** Called with each decision that takes conversations away, before it is sent. */
  onAway: (ids: number[]) => void
}

/** What stands open above the dock; the inbox has some of its own. */
export type Tray =
  | ''
  | 'snooze'
  | 'follow-up'
  | 'flag'
  | 'wait'
  | 'calendar'
  | 'label'
  | 'give'
  | 'share'
  | 'comment'
  | `comment-${number}` // to be changed
  | 'note'
  | 'rename'
  | 'reply'
  | 'remind'
  | 'forward'
  | 'pass-on'
  | 'leave-list'
  | 'stream'
  | 'block'
  | 'never'
  | `combo-${string}` // with its ID: what it asks
  | 'arrange'
  | 'sit'
  | 'fresh-start'
  | 'list'

/** Trays about a single conversation. */
export const one: Tray[] = [
  'reply',
  'remind',
  'forward',
  'pass-on',
  'leave-list',
  'stream',
  'block',
  'never',
  'rename',
  'note',
  'comment',
  'share',
  'wait',
  'calendar',
]

/** Those of them that are opened now and then. */
export const seldom: Tray[] = ['leave-list', 'stream', 'block', 'never', 'rename', 'note']

/** What can be decided about one conversation or many, by key or from a tray. */
export function useDeciding({ id, slip, chosen = [], tray, setTray, trays, sitting, seen, onAway }: Props) {
  const desk = useDesk()
  const navigate = useNavigate()
  const session = useMe()
  const combos = session.habits.combos ?? []
  const [about, setAbout] = useState<number>()
  const two = useTwoMinutes(slip?.id)
  const letThrough = useLetThrough()
  const kept = useKept()
  const picked = chosen.length ? chosen : slip ? [slip.id] : []
  const targets = whole(picked) // a digest is decided with all that is in it
  const many = chosen.length || slip?.of ? targets.length : 0
  const own = trays?.(tray, () => setTray(''), chosen)
  if (tray && !own && !many && about !== slip?.id) {
    // another conversation: its tray is not this one's
    if (about !== undefined) setTray('')
    setAbout(slip?.id)
  }
  if (!tray && about !== undefined) setAbout(undefined)
  const open = (t: Tray) => {
    setAbout(slip?.id)
    setTray(tray === t ? '' : t)
  }
  const place = seen ?? (many ? slipOf(picked[0]) : undefined)?.position.place ?? slip?.position.place
  const decide = (d: Deciding, away = false) => {
    if (!targets.length)
      return id === undefined ? undefined : desk.say({ text: sentences.stillLoadingThisConversation })
    setTray('')
    if (away) onAway(slip?.of ? [...picked, ...targets] : targets)
    const decided = desk.decide({ ...d, conversations: targets, seen, sitting }, away)
    finish(decided)
    return decided
  }
  const typedIn = tray && `tray/${tray}/${targets.join()}` // without a tray there is nothing to type in
  /** What was typed in the tray has gone with a decision; it is there again if that is refused. */
  const finish = (decided: Promise<unknown>) => {
    const back = kept.forget(typedIn)
    void decided.then((d) => d ?? back())
  }
  const mark = (kind: string) => decide({ kind })
  const taken = !many && !!slip?.owner?.mine
  const give = (owner: number, text = '', turn?: Turn) =>
    decide({ kind: 'give', owner, text, turn, was: many ? undefined : (slip?.owner?.id ?? 0) })
  const starred = many ? targets.every((id) => slipOf(id)?.starred) : !!slip?.starred
  const run = (c: Chain, answers?: ComboStep[]) => {
    if (!answers && c.steps.some((s) => s.ask)) return open(`combo-${c.id}`)
    const moves = c.steps.some((s) => ['bin', 'archive', 'snooze', 'junk', 'silence'].includes(s.kind))
    const done = decide({ kind: 'combo', combo: c.id, answers }, moves && !c.if) // what its condition passes over stays
    void done?.then((d) => d?.draft && navigate('/writing/' + d.draft))
  }
  const some = targets.length > 0 || id !== undefined
  const n = many > 1 ? ` ${digits(many)}` : ''
  useCommands(
    [
      ...(some
        ? [
            ...(place !== 'bin' ? [{ id: 'bin', run: () => decide({ kind: 'bin' }, true) }] : []),
            ...(place !== 'archived' ? [{ id: 'archive', run: () => decide({ kind: 'archive' }, true) }] : []),
            ...(many
              ? []
              : [
                  { id: 'reply', run: () => open('reply') },
                  { id: 'forward', run: () => open('forward') },
                  { id: 'pass-on', run: () => open('pass-on') },
                  ...(slip?.kind === 'list' ? [{ id: 'leave-list', run: () => open('leave-list') }] : []),
                  { id: 'to-stream', run: () => open('stream') },
                  { id: 'block', run: () => open('block') },
                  { id: 'never-such', run: () => open('never') },
                  { id: 'calendar', run: () => open('calendar') },
                  { id: 'wait', run: () => open('wait') },
                  { id: 'note', run: () => open('note') },
                  ...(team
                    ? [
                        { id: 'comment', run: () => open('comment') },
                        {
                          id: 'follow',
                          run: () => {
                            const talk = conversationHere(id)?.talk
                            if (talk) void desk.act(`/conversations/${id}/follow`, { follows: !talk.follows })
                          },
                        },
                      ]
                    : [{ id: 'share', run: () => open('share') }]),
                  { id: 'rename', run: () => open('rename') },
                  {
                    id: 'let-through',
                    run: () => {
                      const b = conversationHere(id)?.between
                      if (b) letThrough(b.address, b.name || b.address)
                    },
                  },
                  {
                    id: 'never',
                    run: () => {
                      if (!slip) return
                      onAway([slip.id])
                      void desk.act(`/conversations/${slip.id}/never`)
                    },
                  },
                  {
                    id: 'make-rule',
                    run: () => {
                      if (slip) void navigate('/rules/new?like=' + slip.id)
                    },
                  },
                  {
                    id: 'its-history',
                    run: () => {
                      if (slip) void navigate('/history?conversation=' + slip.id)
                    },
                  },
                ]),
            {
              id: 'snooze',
              name: place === 'snoozed' ? sentences.changeWhenItComes : undefined,
              run: () => open('snooze'),
            },
            { id: 'follow-up', run: () => open('follow-up') },
            { id: 'flag', run: () => open('flag') },
            { id: 'label', run: () => open('label') },
            ...(team
              ? [
                  { id: 'give', run: () => open('give') },
                  {
                    id: 'take',
                    name: taken ? sentences.giveItBack : sentences.takeIt,
                    run: () => give(taken ? 0 : session.id),
                  },
                ]
              : []),
            {
              id: 'star',
              name: starred ? sentences.removeTheStar : sentences.star,
              run: () => mark(starred ? 'unstar' : 'star'),
            },
            {
              id: 'silence',
              name: slip?.silent && !many ? sentences.hearItAgain : undefined,
              run: () => (slip?.silent && !many ? mark('hear') : decide({ kind: 'silence' }, true)),
            },
            { id: 'important', run: () => mark('important') },
            { id: 'unimportant', run: () => mark('unimportant') },
            { id: 'unread', run: () => mark('unread') },
            { id: 'read', run: () => mark('read') },
            ...(place === 'junk'
              ? [{ id: 'bring-back', name: sentences.notJunk, run: () => decide({ kind: 'not-junk' }, true) }]
              : [{ id: 'junk', run: () => decide({ kind: 'junk' }, true) }]),
            ...(place !== 'inbox' && place !== 'junk'
              ? [{ id: 'bring-back', run: () => decide({ kind: 'inbox' }, true) }]
              : []),
            ...(sitting ? [{ id: 'leave', run: () => decide({ kind: 'leave' }, true) }] : []),
            ...combos.map((c) => ({
              id: 'combo-' + c.id,
              name: c.name,
              keys: c.key ? [c.key] : [],
              run: () => run(c),
            })),
          ]
        : []),
      ...(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : []),
    ],
    DOCK,
  )
  const close = () => setTray('')
  const shown = some && !(many && one.includes(tray)) ? tray : ''
  const name = many > 1 ? sentences.conversations(many) : `“${slip?.title || slip?.subject || ''}”`
  const what = tray ? sentences.typedAbout(sentences.typedIn(tray), name) : ''
  return {
    typedIn,
    finish,
    what,
    desk,
    combos,
    two,
    many,
    targets,
    own,
    open,
    place,
    decide,
    mark,
    give,
    starred,
    run,
    some,
    n,
    close,
    shown,
  }
}
