import { RadioGroup } from '../../kit/choose'
import { FileButton } from '../../kit/files'
import { Select } from '../../kit/select'
import { useEffect, useRef, useState, type ReactNode } from 'react'
import { PaperclipIcon, XIcon } from '@phosphor-icons/react'
import { EbbeError, newKey, post, put, sendFile, told } from '../../api/client'
import type { DraftChange, DraftView, Sent } from '../../api/desk'
import type { Place } from '../../api/gen/inbox'
import type { Moment } from '../../api/gen/when'
import { client, refresh, useAccounts, useGrid } from '../../api/queries'
import { changeSlip } from '../../api/slips'
import { long, size } from '../../api/times'
import { Checkbox } from '../../kit/checkbox'
import { Button, IconButton, TextButton } from '../../kit/button'
import { Field, TextArea } from '../../kit/field'
import { PeopleField } from '../../kit/people'
import { PhraseField, understand } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { useDesk } from '../../frame/desk'
import { WeekGrid } from '../worktop/snooze'
import { Templates } from './templates'

const modes = [
  { id: 'reply', name: 'Reply' },
  { id: 'reply-all', name: 'Reply to all' },
  { id: 'forward', name: 'Forward' },
  { id: 'hand-over', name: 'Hand over' },
]
const keptOf = (d: DraftView): DraftChange => ({
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
/** Whether there is nothing in a draft that would be missed. */
const empty = (d: DraftView) =>
  !d.text.trim() &&
  (d.mode === 'forward' || d.mode === 'hand-over' || !d.files.length) &&
  (d.mode !== 'new' || (!d.subject.trim() && !d.to.length))

interface Props {
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

/** A message being written: kept as it is typed, sent with a key, and taken back for a while after. */
export function Writer({ draft, page, place, seen, sitting, title, aside, offers = [], foot, onSent, onClose }: Props) {
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
            ? e.message.replace('Nothing was changed', 'What you typed last is only on this screen')
            : 'What you typed last is only on this screen.',
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
      setBusy(`Adding “${f.name}”…`)
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
      throw new EbbeError('Nothing was sent yet: say when, or choose to send it at once.', 422, 'invalid', field)
    if (!text.trim() || chosen) return chosen ?? undefined
    const m = await understand(text)
    if (!m)
      throw new EbbeError(
        `Nothing was sent: Ebbe does not understand “${text}”. Write it as in “fri 10” or “in 3 days”.`,
        422,
        'invalid',
        field,
      )
    return m
  }
  const send = async (sure = false) => {
    if (busy) return
    setBusy('Sending…')
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
        text:
          e instanceof EbbeError && e.type === 'unreachable'
            ? 'Ebbe cannot be reached, so it is not known whether this was sent. The draft is kept. Send it again: it will not go twice.'
            : told(e),
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
  return (
    <Tray
      page={page}
      ref={form}
      label={title ?? 'Write'}
      testid={page ? 'writer' : 'reply-tray'}
      layout="writer"
      over={over}
      onClose={() => (asks ? setAsks(null) : close())}
      onSubmit={() => {}}
      onKeyDown={(e) => {
        if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
          e.preventDefault()
          e.stopPropagation()
          void send()
        }
      }}
      onDragOver={(e) => {
        if (e.dataTransfer.types.includes('Files')) {
          e.preventDefault()
          setOver(true)
        }
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        setOver(false)
        if (e.dataTransfer.files.length) {
          e.preventDefault()
          void add(e.dataTransfer.files)
        }
      }}
      onPaste={(e) => {
        if (e.clipboardData.files.length) {
          e.preventDefault()
          void add(e.clipboardData.files)
        }
      }}
    >
      <div className={`flex min-w-0 flex-1 flex-col gap-1.5 ${page ? 'min-h-0 max-[900px]:flex-none' : ''}`}>
        <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
          {d.message > 0 && (
            <RadioGroup
              label="What it is"
              look="plain"
              className="mr-2"
              value={d.mode}
              options={modes}
              onChange={mode}
            />
          )}
          {accounts.length > 1 && (
            <Select
              label="From"
              small
              className="ml-auto flex max-w-full min-w-0 items-baseline gap-1.5"
              value={d.account}
              options={accounts.map((a) => ({ id: a.id, name: `${a.name} · ${a.address}` }))}
              onChange={(account) => change({ account })}
            />
          )}
        </div>
        <PeopleField
          key={d.mode}
          id="write-to"
          label="To"
          people={d.to}
          wrong={at_('to')}
          autoFocus={!d.to.length}
          onChange={(to) => change({ to })}
          aside={
            !more && (
              <TextButton small onClick={() => setMore(true)}>
                Cc
              </TextButton>
            )
          }
        />
        {more && (
          <div className="grid grid-cols-2 gap-1.5 max-[700px]:grid-cols-1">
            <PeopleField id="write-cc" label="Cc" people={d.cc} wrong={at_('cc')} onChange={(cc) => change({ cc })} />
            <PeopleField
              id="write-bcc"
              label="Bcc"
              people={d.bcc}
              wrong={at_('bcc')}
              onChange={(bcc) => change({ bcc })}
            />
          </div>
        )}
        {fresh || subject ? (
          <Field
            id="write-subject"
            label="Subject"
            value={d.subject}
            wrong={at_('subject')}
            autoComplete="off"
            maxLength={900}
            onChange={(e) => change({ subject: e.target.value })}
          />
        ) : (
          <p className="truncate text-[12.5px] text-ink-500">
            {d.subject}{' '}
            <TextButton small onClick={() => setSubject(true)}>
              change
            </TextButton>
          </p>
        )}
        {offers.length > 0 && !d.text.trim() && !preview && (
          <div
            className="flex flex-wrap items-center gap-1.5 text-[12.5px]"
            role="group"
            aria-label="Short answers, to be put into the draft"
            data-testid="offers"
          >
            <span className="text-ink-500">Say</span>
            {offers.map((o) => (
              <Button
                size="small"
                quiet
                className="max-w-full truncate"
                key={o}
                title={o}
                onClick={() => {
                  change({ text: o + '\n' })
                  form.current?.querySelector<HTMLTextAreaElement>('#reply')?.focus()
                }}
              >
                {o}
              </Button>
            ))}
          </div>
        )}
        {preview > 0 ? (
          <iframe
            title="Preview of the message"
            data-testid="preview"
            sandbox="allow-same-origin"
            src={`/api/v1/drafts/${d.id}/preview?v=${preview}`}
            className={`w-full rounded-[9px] border border-sand-300 bg-white ${page ? 'min-h-60 flex-1' : 'h-[196px]'}`}
          />
        ) : (
          <TextArea
            id="reply"
            label={handing ? 'A note' : 'The message'}
            hideLabel
            serif
            tall={page}
            className={page ? 'flex min-h-40 flex-1 flex-col max-[900px]:min-h-72' : ''}
            autoFocus={d.to.length > 0}
            rows={page ? undefined : 7}
            value={d.text}
            placeholder={handing ? 'A note for them. The message and its files go with it.' : ''}
            onChange={(e) => change({ text: e.target.value })}
          />
        )}
        {(d.files.length > 0 || busy) && (
          <ul className="flex flex-wrap gap-1.5 text-[12.5px]" aria-label="Files that go with it">
            {d.files.map((f) => (
              <li
                key={f.id}
                className="flex max-w-64 items-center gap-1.5 rounded-[8px] border border-sand-300 py-0.5 pr-1 pl-2"
              >
                <PaperclipIcon size={13} className="shrink-0 text-ink-500" aria-hidden />
                <span className="truncate" title={f.name}>
                  {f.name}
                </span>
                <span className="shrink-0 text-ink-500">{size(f.size)}</span>
                <IconButton label={`Remove ${f.name}`} onClick={() => drop(f.id)}>
                  <XIcon size={11} aria-hidden />
                </IconButton>
              </li>
            ))}
            {busy && (
              <li className="py-0.5 text-ink-500" role="status">
                {busy}
              </li>
            )}
          </ul>
        )}
        {at_('files') && (
          <p role="alert" className="text-[12.5px] text-coral-600">
            {at_('files')}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[12.5px] text-ink-500">
          <FileButton words multiple label="Files" testid="files" onFiles={(files) => void add(files)}>
            Add files…
          </FileButton>
          <TextButton small aria-pressed={templates} onClick={() => setTemplates(!templates)}>
            Template…
          </TextButton>
          <Checkbox testid="rich" checked={d.rich} onChange={(on) => change({ rich: on })}>
            Markdown
          </Checkbox>
          {d.below && d.mode !== 'forward' && !handing && (
            <Checkbox checked={!d.bare} onChange={(on) => change({ bare: !on })}>
              with the earlier message below
            </Checkbox>
          )}
          <TextButton
            small
            aria-pressed={preview > 0}
            onClick={() => {
              if (preview) setPreview(0)
              else void keep().then(() => setPreview(Date.now()))
            }}
          >
            {preview ? 'Back to writing' : 'Preview'}
          </TextButton>
          <span
            className={`ml-auto ${lost ? 'text-coral-600' : ''}`}
            role={lost ? 'alert' : undefined}
            data-testid="kept"
          >
            {lost || (keptAt ? `Saved ${long(keptAt)}.` : 'Saved as you type.')}
          </span>
        </div>
        {templates && (
          <Templates
            draft={d.id}
            subject={fresh ? d.subject : ''}
            text={d.text}
            onClose={() => {
              setTemplates(false)
              form.current?.querySelector<HTMLElement>('#reply')?.focus()
            }}
            onUse={(t) => {
              change({
                text: d.text.trim() ? `${d.text.trimEnd()}\n\n${t.text}\n` : t.text + '\n',
                ...(t.subject && !d.subject.trim() ? { subject: t.subject } : {}),
              })
              setTemplates(false)
              form.current?.querySelector<HTMLElement>('#reply')?.focus()
            }}
          />
        )}
        {later && (
          <LaterRow
            text={at}
            moment={atAt}
            wrong={at_('at')}
            repeat={repeat}
            repeatWrong={at_('repeat')}
            onRepeat={setRepeat}
            onText={setAt}
            onMoment={setAtAt}
            onClose={() => {
              setLater(false)
              setAt('')
              setAtAt(null)
              setRepeat('')
            }}
          />
        )}
      </div>
      <div className={`flex shrink-0 flex-col items-stretch gap-2 ${page ? 'w-[264px] max-[900px]:w-full' : ''}`}>
        {aside}
        {handing && (
          <Field
            id="write-expect"
            label="What do you expect from them?"
            placeholder={`Answer about “${d.subject.replace(/^Fwd: /, '').slice(0, 28)}”`}
            value={expect}
            maxLength={400}
            autoComplete="off"
            onChange={(e) => setExpect(e.target.value)}
          />
        )}
        <div>
          <PhraseField
            id="write-return"
            optional
            label={
              handing
                ? 'Answer expected by'
                : fresh
                  ? 'Remind me if nobody answers by'
                  : 'Bring it back if nobody answers by'
            }
            placeholder={handing ? 'thu noon' : 'fri'}
            onText={(t) => {
              setBack(t)
              setBackAt(null)
            }}
            onChosen={(c) => setBackAt(c?.moment ?? null)}
            onAccept={(c) => {
              setBackAt(c.moment)
              form.current?.querySelector<HTMLElement>('#reply')?.focus()
            }}
            onCancel={close}
          />
        </div>
        {at_('return') && (
          <p role="alert" className="-mt-1 text-[12.5px] text-coral-600">
            {at_('return')}
          </p>
        )}
        <Checkbox checked={d.receipt} onChange={(on) => change({ receipt: on })}>
          Request a read receipt
        </Checkbox>
        {place === 'inbox' && d.conversation > 0 && !(back.trim() && !fresh) && (
          <Checkbox checked={leaves} onChange={(on) => setLeaves(on)}>
            it leaves the inbox
          </Checkbox>
        )}
        {elsewhere && (
          <p role="alert" className="text-[12.5px] text-coral-600">
            {elsewhere}
          </p>
        )}
        {asks ? (
          <div
            role="alert"
            className="rounded-[9px] bg-amber-100 px-3 py-2 text-[12.5px] text-amber-600"
            data-testid="asks"
          >
            <p className="mb-1.5 font-semibold">{asks.asks}</p>
            <div className="flex gap-1.5">
              <Button data-testid="send-anyway" onClick={() => void send(true)}>
                Send it
              </Button>
              <Button
                quiet
                onClick={() => {
                  setAsks(null)
                  if (asks.field === 'files') chooser.current?.click()
                  else
                    form.current
                      ?.querySelector<HTMLElement>(asks.field === 'subject' ? '#write-subject' : '#reply')
                      ?.focus()
                }}
              >
                {asks.field === 'files' ? 'Add the file' : 'Not yet'}
              </Button>
            </div>
          </div>
        ) : (
          <div className="flex flex-wrap items-center gap-1.5">
            <Button data-testid="send" disabled={!!busy} onClick={() => void send()}>
              {handing ? 'Hand over' : at.trim() ? 'Send then' : 'Send'}{' '}
              <span className="ml-1 font-normal">Ctrl Enter</span>
            </Button>
            {!later && (
              <Button quiet className="px-2.5" onClick={() => setLater(true)}>
                Later…
              </Button>
            )}
          </div>
        )}
        {/* eslint-disable-next-line react-hooks/refs -- it is called by a press, not while this is drawn */}
        {foot?.(keep)}
        <TextButton tone="faint" className="self-start" onClick={close}>
          {empty(d) ? 'Close' : 'Save the draft and close'}
        </TextButton>
      </div>
    </Tray>
  )
}

/** When it is sent: in words, or by a part of the coming week. */
function LaterRow({
  text,
  moment,
  wrong,
  repeat,
  repeatWrong,
  onRepeat,
  onText,
  onMoment,
  onClose,
}: {
  text: string
  moment: Moment | null
  wrong?: string
  repeat: string
  repeatWrong?: string
  onRepeat: (words: string) => void
  onText: (t: string) => void
  onMoment: (m: Moment | null) => void
  onClose: () => void
}) {
  const { data: days } = useGrid()
  const [picked, setPicked] = useState(0)
  return (
    <div
      className="grid grid-cols-[220px_minmax(0,1fr)] items-start gap-5 border-t border-sand-200 pt-2 max-[900px]:grid-cols-1"
      data-testid="later-row"
    >
      <div>
        <PhraseField
          id="write-at"
          label="Send it when?"
          placeholder="tomorrow 8"
          autoFocus
          optional
          clear={picked}
          onText={(t) => {
            onText(t)
            onMoment(null)
          }}
          onChosen={(c) => {
            if (c || text) onMoment(c?.moment ?? null)
          }}
          onAccept={(c) => onMoment(c.moment)}
          onCancel={onClose}
        />
        {picked > 0 && moment && !text.trim() && (
          <p className="text-[12.5px] font-semibold text-accent">It goes {long(moment.at)}.</p>
        )}
        {wrong && (
          <p role="alert" className="text-[12.5px] text-coral-600">
            {wrong}
          </p>
        )}
        <Field
          id="write-repeat"
          label="And again? (optional)"
          placeholder="every monday"
          value={repeat}
          wrong={repeatWrong}
          autoComplete="off"
          maxLength={100}
          onChange={(e) => onRepeat(e.target.value)}
        />
        <TextButton tone="faint" className="mt-1" onClick={onClose}>
          Send it at once after all
        </TextButton>
      </div>
      {days && (
        <WeekGrid
          days={days}
          chosen={moment?.at}
          verb="sent"
          onPick={(m) => {
            onText('')
            setPicked((n) => n + 1)
            onMoment(m)
          }}
        />
      )}
    </div>
  )
}
