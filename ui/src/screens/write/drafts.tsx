import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from 'react'
import { mine, newKey, post, put } from '../../api/client'
import type { ConversationView, DraftView } from '../../api/desk'
import type { Kept } from '../../api/kept'
import { client, refresh } from '../../api/queries'
import { pause } from '../../api/reach'
import { changeSlip } from '../../api/slips'
import { now } from '../../api/times'
import { here } from '../../frame/address'
import { useDesk } from '../../frame/desk'
import { useKept } from '../../frame/kept'
import { Keeping, type Unsaved } from './keeping'
import { sentences } from './sentences'

const PREFIX = 'draft/'
const nameOf = (id: number) => PREFIX + id

/** Whether what was typed there is a draft: it is saved by itself, and needs nobody to go on. */
export const isDraft = (name: string) => name.startsWith(PREFIX)

/** What a draft is, in words. */
export const draftIn = (d: DraftView) =>
  sentences.aMessageTo(d.to.map((a) => a.name || a.address).join(', ') || sentences.nobodyYet, d.subject)

/** The drafts that this window writes, each until the program has all of it: also those that are closed already. */
class Drafts {
  private open = new Map<number, Keeping>()

  constructor(
    private kept: Kept,
    private say: (text: string) => void,
  ) {}

  /** The draft as it is written here. What an earlier page could not save is in it. */
  of(draft: DraftView): Keeping {
    const known = this.open.get(draft.id)
    if (known && !known.over) {
      // What was asked for before it was saved here is older than what is here.
      if (!known.dirty && draft.version >= known.version) known.take(draft)
      return known
    }
    return this.begin(draft, this.kept.read<Unsaved>(nameOf(draft.id)))
  }

  /** What is written here about that conversation and has not reached the program. */
  unsaved(conversation: number): Keeping | undefined {
    return [...this.open.values()].find((k) => k.dirty && k.standing.draft.conversation === conversation)
  }

  /** The draft of that number as it was written here last, if it was. */
  at = (id: number): DraftView | undefined => this.open.get(id)?.standing.draft

  /** Sends what earlier pages could not save. */
  resume() {
    for (const t of this.kept.unfinished()) {
      const unsaved = t.value as Unsaved
      if (!isDraft(t.name) || this.open.has(unsaved.draft.id)) continue
      const keeping = this.begin(unsaved.draft, unsaved)
      const end = keeping.subscribe(() => {
        if (keeping.dirty) return
        end()
        this.say(sentences.savedAfterAll(draftIn(keeping.standing.draft)))
        refresh(['outbox', 'mail'], [], [keeping.standing.draft.conversation])
      })
    }
  }

  private begin(draft: DraftView, unsaved?: Unsaved): Keeping {
    const keeping = new Keeping(
      draft,
      {
        put: (id, change) => put<DraftView>('/drafts/' + id, change, mine(newKey())),
        begin: (d) => post<DraftView>('/drafts', { mode: d.mode, message: d.message, to: d.to }),
        keep: (id, u) => this.keep(id, u),
        pause,
        rest: (ms) => new Promise((done) => setTimeout(done, ms)),
        newKey,
      },
      unsaved,
    )
    this.open.set(draft.id, keeping)
    keeping.subscribe(() => {
      const d = keeping.standing.draft
      this.open.set(d.id, keeping)
      if (!keeping.dirty && d.conversation) changeSlip(d.conversation, { draft: d.text !== '' })
    })
    return keeping
  }

  private keep(id: number, unsaved: Unsaved | null) {
    if (unsaved)
      this.kept.type({
        name: nameOf(id),
        value: { ...unsaved, draft: { ...unsaved.draft, below: '' } }, // that is long, and the program's own
        what: draftIn(unsaved.draft),
        path: here(),
        at: now(),
      })
    else this.kept.forget(nameOf(id))
  }
}

const Context = createContext<Drafts | null>(null)
export const useDrafting = () => useContext(Context)!

/** Keeps what is written of messages, on every screen, until the program has it. */
export function DraftsProvider({ children }: { children: ReactNode }) {
  const kept = useKept()
  const { say } = useDesk()
  const [drafts] = useState(() => new Drafts(kept, (text) => say({ text })))
  useEffect(() => drafts.resume(), [drafts])
  return <Context.Provider value={drafts}>{children}</Context.Provider>
}

export const useDraftState = (k: Keeping) => useSyncExternalStore(k.subscribe, k.snapshot)

/** A draft has been closed: what is known of its conversation knows it as it is. */
export const closed = (d: DraftView) =>
  client.setQueryData<ConversationView>(['conversation', d.conversation], (v) => v && { ...v, draft: d })

let beginning: Promise<number> | undefined
/** Begins an empty message, and gives its draft: one, however often the key is pressed until it is there. */
export const newMessage = () =>
  (beginning ??= post<DraftView>('/drafts', { mode: 'new', message: 0, to: [] })
    .then((d) => d.id)
    .finally(() => {
      beginning = undefined
    }))
