import { type ReactNode, useEffect, useRef, useState } from 'react'
import { EbbeError, newKey, post, put, sendFile, told } from '../../api/client'
import type { DraftChange, DraftView, Sent } from '../../api/desk'
import type { Place } from '../../api/gen/inbox'
import type { Moment } from '../../api/gen/when'
import { client, refresh, useAccounts } from '../../api/queries'
import { changeSlip } from '../../api/slips'
import { useDesk } from '../../frame/desk'
import { understand } from '../../kit/phrase'
import { sentences } from './sentences'

export interface Props {
  draft: DraftView
  page?: boolean // it has the screen to itself
  place?: Place // where its conversation is
  seen?: Place // where the user saw it to be
  sitting?: number
  title?: string
  aside?: ReactNode // stands above the choices
  offers?: string[] // answers that can be put into it
  foot?: (keep: () => Promise<void>) => ReactNode
  onSent: (away: boolean) => void
  onClose: () => void
}
/** Whether there is nothing in a draft that would be missed. */
export const empty = (d: DraftView) =>
  !d.text.trim() &&
  (d.mode === 'forward' || d.mode === 'hand-over' || !d.files.length) &&
  (d.mode !== 'new' || (!d.subject.trim() && !d.to.length))
export const keptOf = (d: DraftView): DraftChange => ({
  account: d.account,
  to: d.to,
  cc: d.cc,
  bcc: d.bcc,
  subject: d.subject,
  text: d.text,
  rich: d.rich,
  bare: d.bare,
  receipt: d.receipt,
})

/** A message being written: kept as it is typed, sent with a key, and taken back for a while after. */
export function useWriting({ draft, place, seen, sitting, onSent, onClose }: Props) {
  const desk = useDesk()
  const accounts = useAccounts().data?.accounts ?? []
  const [d, setD] = useState(draft)
  const [keptAt, setKeptAt] = useState(draft.text ? draft.changed : 0)
  const [wrong, setWrong] = useState<{ field: string; text: string } | null>(null)
  const [lost, setLost] = useState('') // why what was typed last is not kept
  const [more, setMore] = useState(draft.cc.length > 0 || draft.bcc.length > 0)
  const [subject, setSubject] = useState(false)
  const [preview, setPreview] = useState(0)
  const [later, setLater] = useState(false)
  const [templates, setTemplates] = useState(false)
  const [back, setBack] = useState('')
  const [backAt, setBackAt] = useState<Moment | null>(null)
  const [at, setAt] = useState('')
  const [atAt, setAtAt] = useState<Moment | null>(null)
  const [repeat, setRepeat] = useState('')
  const [expect, setExpect] = useState('')
  const [leaves, setLeaves] = useState(true)
  const [asks, setAsks] = useState<Sent | null>(null)
  const [busy, setBusy] = useState('')
  const [over, setOver] = useState(false)
  const latest = useRef(draft)
  const stored = useRef(draft)
  const line = useRef<Promise<unknown>>(Promise.resolve())
  const key = useRef(newKey()) // of this sending: the same until it is known what came of it
  const form = useRef<HTMLElement>(null)
  const chooser = useRef<HTMLInputElement>(null)
  const handing = d.mode === 'hand-over'
  const fresh = d.mode === 'new' || d.mode === 'forward' || handing

  const take = (v: DraftView) => {
    latest.current = v
    stored.current = v
    setD(v)
  }
  const keep = () => {
    line.current = line.current.then(async () => {
      const now = latest.current
      if (now === stored.current) return
      try {
        const v = await put<DraftView>('/drafts/' + d.id, keptOf(now))
        stored.current = now
        setKeptAt(v.changed)
        setLost('')
        if (d.conversation) {
          changeSlip(d.conversation, { draft: now.text !== '' })
          void client.invalidateQueries({ queryKey: ['conversation', d.conversation] })
        }
      } catch (e) {
        setLost(
          e instanceof EbbeError
            ? e.message.replace(sentences.nothingWasChanged, sentences.whatYouTypedLast)
            : sentences.whatYouTypedLastSaid,
        )
      }
    })
    return line.current as Promise<void>
  }
  const change = (c: Partial<DraftView>) => {
    latest.current = { ...latest.current, ...c }
    setD(latest.current)
    setWrong(null)
    setAsks(null)
    void keep()
  }
  const mode = (m: string) => {
    void keep()
      .then(() => post<DraftView>('/drafts', { mode: m, message: d.message, to: [] }))
      .then((v) => {
        take(v)
        setMore(v.cc.length > 0)
      })
      .catch((e) => setLost(told(e)))
  }
  const add = async (files: Iterable<File>) => {
    for (const f of files) {
      setBusy(sentences.adding(f.name))
      try {
        await keep()
        const v = await sendFile<DraftView>(
          `/drafts/${d.id}/files?name=${encodeURIComponent(f.name)}&type=${encodeURIComponent(f.type)}`,
          f,
          newKey(),
          'application/octet-stream',
        )
        latest.current = { ...latest.current, files: v.files }
        stored.current = latest.current
        setD(latest.current)
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
      .then((v) => {
        latest.current = { ...latest.current, files: v.files }
        stored.current = latest.current
        setD(latest.current)
      })
      .catch((e) => setWrong({ field: 'files', text: told(e) }))
  const closed = useRef(false)
  const close = () => {
    if (closed.current) return
    closed.current = true
    if (empty(latest.current))
      void line.current
        .then(() => post(`/drafts/${d.id}/drop`))
        .catch(() => {})
        .then(() => refresh(['outbox', 'mail'], [], d.conversation ? [d.conversation] : [])) // gone already is as good
    else void keep()
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
      await keep()
      if (latest.current !== stored.current) return
      await desk.settled()
      const then = when && !fresh ? 'snooze' : away ? 'archive' : ''
      const s = await post<Sent>(
        `/drafts/${d.id}/send`,
        {
          then,
          return: handing ? undefined : when,
          due: handing ? when : undefined,
          at: not,
          repeat: later ? repeat : '',
          sure,
          expect,
          sitting,
          seen,
        },
        key.current,
      )
      key.current = newKey()
      if (s.asks) return setAsks(s)
      onSent(away || (!!when && !fresh))
      desk.say({ text: s.text, undo: s.entry > 0 })
      refresh(['mail', 'followups', 'outbox'], [], d.conversation ? [d.conversation] : [])
    } catch (e) {
      if (!(e instanceof EbbeError && e.type === 'unreachable')) key.current = newKey()
      setWrong({
        field: e instanceof EbbeError ? (e.field ?? '') : '',
        text: e instanceof EbbeError && e.type === 'unreachable' ? sentences.ebbeCannotBeReached : told(e),
      })
    } finally {
      setBusy('')
    }
  }
  const at_ = (field: string) => (wrong?.field === field ? wrong.text : undefined)
  const elsewhere =
    wrong && !['to', 'cc', 'bcc', 'subject', 'files', 'return', 'at', 'repeat'].includes(wrong.field) ? wrong.text : ''
  useEffect(() => {
    if (asks) form.current?.querySelector<HTMLButtonElement>('[data-testid=send-anyway]')?.focus()
  }, [asks])
  return {
    accounts,
    d,
    keptAt,
    lost,
    more,
    setMore,
    subject,
    setSubject,
    preview,
    setPreview,
    later,
    setLater,
    templates,
    setTemplates,
    back,
    setBack,
    setBackAt,
    at,
    setAt,
    atAt,
    setAtAt,
    repeat,
    setRepeat,
    expect,
    setExpect,
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
    keep,
    change,
    mode,
    add,
    drop,
    close,
    send,
    at_,
    elsewhere,
  }
}
