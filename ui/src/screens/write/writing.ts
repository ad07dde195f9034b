import { type ReactNode, useEffect, useRef, useState } from 'react'
import { EbbeError, newKey, post, sendFile, told, unanswered } from '../../api/client'
import type { DraftView, Sent } from '../../api/desk'
import type { Place } from '../../api/gen/inbox'
import type { Moment } from '../../api/gen/when'
import type { AnswerLine } from '../../api/gen/writing'
import { refresh, useAccounts, useDraft } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { useTyped } from '../../frame/kept'
import { useSteady } from '../../frame/steady'
import { understand } from '../../kit/phrase'
import { draftIn, closed as shown, useDrafting, useDraftState } from './drafts'
import { sentences } from './sentences.writer'

export interface Props {
  draft: DraftView
  page?: boolean // it has the screen to itself
  place?: Place // where its conversation is
  seen?: Place // where the user saw it to be
  sitting?: number
  title?: string
  aside?: ReactNode // stands above the choices
  offers?: AnswerLine[] // short answers that can be put into it
  foot?: (keep: () => Promise<unknown>) => ReactNode
  onSent: (away: boolean) => void
  onClose: () => void
}
/** Whether there is nothing in a draft that would be missed. */
export const empty = (d: DraftView) =>
  !d.text.trim() &&
  (d.mode === 'forward' || d.mode === 'hand-over' || !d.files.length) &&
  (d.mode !== 'new' || (!d.subject.trim() && !d.to.length))
/** What is said of a message besides what is in it. */
const besides = { back: '', at: '', repeat: '', expect: '', later: false }

/** A message being written: kept as it is typed, sent with a key, and taken back for a while after. */
export function useWriting({ draft, place, seen, sitting, onSent, onClose }: Props) {
  const desk = useDesk()
  const accounts = useAccounts().data?.accounts ?? []
  const drafts = useDrafting()
  const [keeping] = useState(() => drafts.of(draft))
  const standing = useDraftState(keeping)
  const d = standing.draft
  const [wrong, setWrong] = useState<{ field: string; text: string } | null>(null)
  const [lost, setLost] = useState('') // what went wrong with it besides saving
  const [typed, setTyped, done] = useTyped('sending/' + draft.id, besides, draftIn(draft))
  const { back, at, repeat, expect, later } = typed
  const [begun] = useState(typed)
  const [more, setMore] = useState(draft.cc.length > 0 || draft.bcc.length > 0)
  const [subject, setSubject] = useState(false)
  const [preview, setPreview] = useState(0)
  const [templates, setTemplates] = useState(false)
  const [backAt, setBackAt] = useState<Moment | null>(null)
  const [atAt, setAtAt] = useState<Moment | null>(null)
  const [leaves, setLeaves] = useState(true)
  const [asks, setAsks] = useState<Sent | null>(null)
  const [busy, setBusy] = useState('')
  const [over, setOver] = useState(false)
  const key = useRef(newKey()) // of this sending: the same until it is known what came of it
  const form = useRef<HTMLElement>(null)
  const chooser = useRef<HTMLInputElement>(null)
  const handing = d.mode === 'hand-over'
  const fresh = d.mode === 'new' || d.mode === 'forward' || handing

  // What another window has written is shown, unless something of this one is still to be saved.
  const stands = useDraft(d.id, draft).data
  useEffect(() => {
    if (stands && stands !== draft && stands.id === keeping.standing.draft.id && stands.version >= keeping.version)
      if (!keeping.dirty) keeping.take(stands)
  }, [stands, draft, keeping])

  const change = (c: Partial<DraftView>) => {
    keeping.change(c)
    setWrong(null)
    setAsks(null)
  }
  const keep = () => keeping.flush()
  const mode = (m: string) => {
    void keep()
      .then(() => post<DraftView>('/drafts', { mode: m, message: d.message, to: [] }))
      .then((v) => {
        keeping.take(v)
        setLost('')
        setMore(v.cc.length > 0)
      })
      .catch((e) => setLost(told(e)))
  }
  const add = async (files: Iterable<File>) => {
    for (const f of files) {
      setBusy(sentences.adding(f.name))
      try {
        const v = await sendFile<DraftView>(
          `/drafts/${keeping.standing.draft.id}/files?name=${encodeURIComponent(f.name)}&type=${encodeURIComponent(f.type)}`,
          f,
          newKey(),
          'application/octet-stream',
        )
        keeping.files(v.files)
        setWrong(null)
      } catch (e) {
        setWrong({ field: 'files', text: told(e) })
      }
    }
    setBusy('')
    setAsks(null)
  }
  const drop = (file: number) =>
    void post<DraftView>(`/drafts/${d.id}/files/${file}/drop`)
      .then((v) => keeping.files(v.files))
      .catch((e) => setWrong({ field: 'files', text: told(e) }))
  const closed = useRef(false)
  const close = () => {
    if (closed.current) return
    closed.current = true
    const now = keeping.standing.draft
    if (empty(now)) {
      keeping.forget()
      done()
      void post(`/drafts/${now.id}/drop`)
        .catch(() => {})
        .then(() => refresh(['outbox', 'mail'], [], now.conversation ? [now.conversation] : [])) // gone already is as good
    } else {
      shown(now)
      void keep().then((saved) => {
        if (!saved) desk.say({ text: sentences.keptHere, wrong: true })
        else refresh(['outbox'], [], [])
      })
    }
    onClose()
  }
  /** A time that stands in a field, read now if that has not been done yet. */
  const timeOf = async (field: string, text: string, chosen: Moment | null) => {
    if (field === 'at' && later && !text.trim() && !chosen)
      throw new EbbeError(sentences.nothingWasSentYet, 422, 'invalid', field)
    if (!text.trim() || chosen) return chosen ?? undefined
    const m = await understand(text)
    if (!m) throw new EbbeError(sentences.nothingWasSentEbbe(text), 422, 'invalid', field)
    return m
  }
  const send = async (sure = false) => {
    if (busy) return
    setBusy(sentences.sending)
    setWrong(null)
    const away = d.conversation > 0 && leaves && place === 'inbox'
    try {
      const when = await timeOf('return', back, backAt)
      const not = await timeOf('at', at, atAt)
      if (!(await keep())) return
      await desk.settled()
      const then = when && !fresh ? 'snooze' : away ? 'archive' : ''
      const s = await post<Sent>(
        `/drafts/${keeping.standing.draft.id}/send`,
        {
          then,
          return: handing ? undefined : when,
          due: handing ? when : undefined,
          at: not,
          repeat: later ? repeat : '',
          sure,
          told: asks?.answered,
          expect,
          sitting,
          seen,
          version: keeping.version,
        },
        key.current,
      )
      key.current = newKey()
      if (s.asks) return setAsks(s)
      keeping.forget()
      done()
      onSent(away || (!!when && !fresh))
      desk.say({ text: s.text, undo: s.entry > 0 })
      refresh(['mail', 'followups', 'outbox'], [], d.conversation ? [d.conversation] : [])
    } catch (e) {
      if (!unanswered(e)) key.current = newKey()
      if (e instanceof EbbeError && e.type === 'changed-elsewhere') refresh(['outbox'], [], [])
      setWrong({
        field: e instanceof EbbeError ? (e.field ?? '') : '',
        text: unanswered(e) ? sentences.ebbeCannotBeReached : told(e),
      })
    } finally {
      setBusy('')
    }
  }
  const at_ = (field: string) => (wrong?.field === field ? wrong.text : undefined)
  const elsewhere =
    wrong && !['to', 'cc', 'bcc', 'subject', 'files', 'return', 'at', 'repeat'].includes(wrong.field) ? wrong.text : ''
  useEffect(() => {
    const text = form.current?.querySelector<HTMLTextAreaElement>('#reply')
    text?.setSelectionRange(text.value.length, text.value.length) // one goes on where one has stopped
  }, [])
  useEffect(() => {
    if (asks) form.current?.querySelector<HTMLButtonElement>('[data-testid=send-anyway]')?.focus()
  }, [asks])
  // The same functions all along: of what is written, only what a letter changes is drawn anew.
  const changes = useSteady(change)
  const modes = useSteady(mode)
  const adds = useSteady(add)
  const closes = useSteady(close)
  const keeps = useSteady(keep)
  const setBack = useSteady((text: string) => setTyped((t) => ({ ...t, back: text })))
  return {
    accounts,
    d,
    standing,
    begun,
    lost,
    more,
    setMore,
    subject,
    setSubject,
    preview,
    setPreview,
    later,
    setLater: (on: boolean) => setTyped((t) => ({ ...t, later: on, ...(on ? {} : { at: '', repeat: '' }) })),
    templates,
    setTemplates,
    back,
    setBack,
    setBackAt,
    at,
    setAt: (text: string) => setTyped((t) => ({ ...t, at: text })),
    atAt,
    setAtAt,
    repeat,
    setRepeat: (text: string) => setTyped((t) => ({ ...t, repeat: text })),
    expect,
    setExpect: (text: string) => setTyped((t) => ({ ...t, expect: text })),
    leaves,
    setLeaves,
    asks,
    setAsks,
    busy,
    over,
    setOver,
    form,
    chooser,
    handing,
    fresh,
    keep: keeps,
    change: changes,
    mode: modes,
    add: adds,
    drop,
    close: closes,
    given: () => {
      closed.current = true
      keeping.forget()
      done()
      onClose()
    },
    send,
    at_,
    elsewhere,
  }
}
