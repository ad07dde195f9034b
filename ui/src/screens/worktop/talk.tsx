import { PaperclipIcon, XIcon } from '@phosphor-icons/react'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api } from '../../api/base'
import { get, newKey, note, post, sendFile, told } from '../../api/client'
import type { CommentFile, CommentView, OtherView, ReaderView, TalkView, TeamView, WritingView } from '../../api/desk'
import type { Piece } from '../../api/gen/together'
import { useConversation } from '../../api/queries'
import { long, size } from '../../api/times'
import { useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { useSteady } from '../../frame/steady'
import { Button, IconButton, TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Collapsible } from '../../kit/collapsible'
import { TextArea } from '../../kit/field'
import { FileButton } from '../../kit/files'
import { Tray } from '../../kit/tray'
import type { Tray as Shown } from './deciding'
import { dropped, onDropped, takeDropped } from './dropped'
import { sentences } from './sentences.trays'

const LONGEST = 8000 // letters of a comment
const BEGINS = 120 // letters of an answer that are shown before one looks

/** What stands in a comment: never HTML, so nothing in it can become any. */
const Pieces = ({ pieces }: { pieces: Piece[] }) => pieces.map((p, i) => <One key={i} piece={p} />)

function One({ piece: p }: { piece: Piece }): ReactNode {
  const within = p.pieces && <Pieces pieces={p.pieces} />
  switch (p.kind) {
    case 'paragraph':
      return <p className="mb-1 last:mb-0">{within}</p>
    case 'bullets':
      return <ul className="mb-1 list-disc pl-5 last:mb-0">{within}</ul>
    case 'numbers':
      return <ol className="mb-1 list-decimal pl-5 last:mb-0">{within}</ol>
    case 'item':
      return <li>{within}</li>
    case 'quote':
      return <blockquote className="mb-1 border-l-2 border-plum-600/40 pl-2.5 last:mb-0">{within}</blockquote>
    case 'block':
      return <pre className="mb-1 overflow-x-auto text-[12.5px] last:mb-0">{p.text}</pre>
    case 'strong':
      return <strong>{within}</strong>
    case 'stress':
      return <em>{within}</em>
    case 'struck':
      return <s>{within}</s>
    case 'code':
      return <code className="text-[12.5px]">{p.text}</code>
    case 'link':
      return (
        <a href={p.href} target="_blank" rel="noreferrer" className="underline" title={p.href}>
          {within}
        </a>
      )
    case 'called':
      return <b className="text-plum-600">{p.text}</b>
    case 'line':
      return <br />
  }
  return p.text
}

const Initial = ({ name, tone }: { name: string; tone: string }) => (
  <span
    aria-hidden
    className={cx('grid size-6 shrink-0 place-items-center rounded-[50%_50%_50%_4px] text-[11px] font-bold', tone)}
  >
    {name.slice(0, 1) || '–'}
  </span>
)

// What can be done about one's own stands there when one is at it.
const ownLook = cx(
  'no-print ml-auto flex gap-2.5 opacity-0 group-focus-within/comment:opacity-100',
  'group-hover/comment:opacity-100 [@media(hover:none)]:opacity-100',
)

/** What somebody of the team said to the others: on its own ground, so that nobody takes it for mail. */
export function Comment({ comment: c, edit }: { comment: CommentView; edit: (tray: Shown) => void }) {
  const { act } = useDesk()
  const [open, setOpen] = useState(false)
  return (
    <article
      id={'comment-' + c.id}
      data-testid="comment"
      aria-label={sentences.commentOf(c.name || sentences.somebodyWhoLeft, long(c.at))}
      className="group/comment my-2 ml-7 flex gap-2.5 rounded-[10px] rounded-tl-[2px] bg-plum-100 px-2.5 py-2 text-[13px] max-[700px]:ml-3"
    >
      <Initial name={c.name} tone="bg-plum-600 text-sand-0" />
      <div className="min-w-0 flex-1 break-words">
        <p className="flex flex-wrap items-baseline gap-x-2">
          <b>{c.name.split(' ')[0] || sentences.somebodyWhoLeft}</b>
          <span className="text-[12px] text-ink-500">{long(c.at)}</span>
          {c.own && (
            <span className={ownLook}>
              <TextButton small tone="faint" onClick={() => edit(`comment-${c.id}`)}>
                {sentences.change}
              </TextButton>
              <TextButton small tone="faint" onClick={() => void act('/comments/' + c.id, { text: '' })}>
                {sentences.deleteIt}
              </TextButton>
            </span>
          )}
        </p>
        <Pieces pieces={c.pieces} />
        {c.files.length > 0 && (
          <ul className="mt-1.5 flex flex-wrap gap-1.5" aria-label={sentences.filesOfTheComment}>
            {c.files.map((f) => (
              <li key={f.id}>
                <a
                  href={`${api}/comment-files/${f.id}`}
                  download={f.name}
                  className="flex max-w-64 items-center gap-1.5 rounded-[8px] border border-plum-600/30 px-2 py-0.5 text-[12.5px] hover:underline"
                >
                  <PaperclipIcon size={13} className="shrink-0" aria-hidden />
                  <span className="truncate" title={f.name}>
                    {f.name}
                  </span>
                  <span className="shrink-0 text-ink-500">{size(f.size)}</span>
                </a>
              </li>
            ))}
          </ul>
        )}
        {c.earlier.length > 0 && (
          <Collapsible
            open={open}
            onOpenChange={setOpen}
            className="text-[12px] text-ink-500"
            head={sentences.changedAt(long(c.changed!))}
          >
            {c.earlier.map((e) => (
              <div key={e.until} className="mt-1 border-t border-plum-600/20 pt-1">
                <p>{sentences.until(long(e.until))}</p>
                <Pieces pieces={e.pieces} />
              </div>
            ))}
          </Collapsible>
        )}
      </div>
    </article>
  )
}

/** Below the messages: who else is writing an answer, so that there are no two. */
export function Writing({ others, edit }: { others: WritingView[]; edit: (tray: Shown) => void }) {
  const [looks, setLooks] = useState('')
  return others.map((o) => (
    <div
      key={o.name}
      role="status"
      data-testid="writing-now"
      className="my-2 flex gap-2.5 rounded-[10px] border border-dashed border-tide-400 bg-tide-50 px-2.5 py-2 text-[13px]"
    >
      <Initial name={o.name} tone="bg-fill text-white" />
      <div className="min-w-0 flex-1 break-words">
        <p>
          <b>
            {(o.now ? sentences.isWriting : o.by ? sentences.hasTheDraft : sentences.hasBegun)(o.name.split(' ')[0])}
          </b>
          , {o.now ? sentences.sinceThen(long(o.since)) : sentences.lastAtIt(long(o.changed))}
          {o.by && `, ${sentences.givenBy(o.by.split(' ')[0])}${o.why ? ` (“${o.why}”)` : ''}`}
          {o.apart && `, ${sentences.inTheirOwnBox}`}
          {!o.apart && looks !== o.name && <>: “{o.text.length > BEGINS ? o.text.slice(0, BEGINS) + '…' : o.text}”</>}
        </p>
        {looks === o.name && <p className="my-1.5 font-serif text-[15px] whitespace-pre-wrap">{o.text}</p>}
        <p className="no-print flex gap-3">
          {!o.apart && (
            <TextButton small aria-expanded={looks === o.name} onClick={() => setLooks(looks === o.name ? '' : o.name)}>
              {looks === o.name ? sentences.lookNoMore : sentences.look}
            </TextButton>
          )}
          <TextButton small onClick={() => edit('reply')}>
            {sentences.writeAllTheSame}
          </TextButton>
        </p>
      </div>
    </div>
  ))
}

/** Files dropped on the conversation go into a comment that is begun. */
export function Dropping({ edit }: { edit: (tray: Shown) => void }) {
  const mark = useRef<HTMLDivElement>(null)
  const [over, setOver] = useState(false)
  const begin = useSteady(() => edit('comment'))
  useEffect(() => {
    const column = mark.current?.closest<HTMLElement>('.reading-column')
    if (!column) return
    const drags = (e: DragEvent) => {
      if (!e.dataTransfer?.types.includes('Files')) return
      e.preventDefault()
      setOver(true)
    }
    const leaves = (e: DragEvent) => {
      if (!(e.relatedTarget instanceof Node) || !column.contains(e.relatedTarget)) setOver(false)
    }
    const drops = (e: DragEvent) => {
      setOver(false)
      if (!e.dataTransfer?.files.length) return
      e.preventDefault()
      dropped(e.dataTransfer.files)
      begin()
    }
    column.addEventListener('dragover', drags)
    column.addEventListener('dragleave', leaves)
    column.addEventListener('drop', drops)
    return () => {
      column.removeEventListener('dragover', drags)
      column.removeEventListener('dragleave', leaves)
      column.removeEventListener('drop', drops)
    }
  }, [begin])
  return (
    <div ref={mark}>
      {over && (
        <p
          role="status"
          className="sticky bottom-0 rounded-[10px] border-2 border-dashed border-plum-600 bg-plum-100 px-3 py-4 text-center text-[13px]"
        >
          {sentences.dropForTheTeam}
        </p>
      )}
    </div>
  )
}

const AGAIN = 45_000 // ms until it is said again that one is there
let leaving = 0 // the timer by which it is said that nothing is open any more

/** Says to the others of the team what one has open, as long as it is in view. */
function useHere(conversation: number) {
  useEffect(() => {
    window.clearTimeout(leaving)
    const say = () => note('/reading', { conversation: document.hidden ? 0 : conversation })
    const again = window.setInterval(() => {
      if (!document.hidden) say()
    }, AGAIN)
    const gone = () => note('/reading', { conversation: 0 })
    say()
    document.addEventListener('visibilitychange', say)
    window.addEventListener('pagehide', gone)
    return () => {
      window.clearInterval(again)
      document.removeEventListener('visibilitychange', say)
      window.removeEventListener('pagehide', gone)
      leaving = window.setTimeout(gone, 300) // unless the next is opened meanwhile
    }
  }, [conversation])
}

/** Below the messages: who else of the team has it open right now. */
export function Reading({ conversation }: { conversation: number }) {
  useHere(conversation)
  const { data } = useQuery({
    queryKey: ['reading', conversation],
    queryFn: () => get<ReaderView[]>(`/conversations/${conversation}/reading`),
    refetchInterval: AGAIN, // whoever has gone without a word is here no more
  })
  if (!data?.length) return null
  return (
    <p data-testid="reading-now" className="my-2 flex items-center gap-2 text-[12.5px] text-ink-500">
      {data.map((r) => (
        <Initial key={r.name} name={r.name} tone="bg-plum-100 text-plum-600" />
      ))}
      {sentences.readIt(data.map((r) => r.name.split(' ')[0]))}
    </p>
  )
}

/** Something to be said to the team, or a comment of one's own to be said otherwise. */
export function CommentTray({
  conversation,
  of,
  onSay,
  onClose,
}: {
  conversation: number
  of: string // comment-7: that is changed; comment: a new one
  onSay: (path: string, body: Record<string, unknown>) => void
  onClose: () => void
}) {
  const comment = Number(of.slice('comment-'.length)) // 0: a new one
  const was = useConversation(conversation).data?.talk?.comments.find((c) => c.id === comment)?.text ?? ''
  const [text, setText] = useState(was)
  const field = useRef<HTMLTextAreaElement>(null)
  const { data: members } = useQuery({ queryKey: ['team'], queryFn: () => get<TeamView>('/team') })
  const begun = /(?:^|[^\p{L}\p{N}_@])@([\p{L}\p{N} ]{0,40})$/u.exec(text)?.[1].toLowerCase()
  const callable = (members?.members ?? []).filter((m) => !m.here)
  const offered = begun === undefined ? [] : callable.filter((m) => begins(m.name, begun))
  // Whoever looks after the team is asked whether somebody who is not in it yet is to see it.
  const others = begun && !offered.length ? (members?.others ?? []).filter((o) => begins(o.name, begun)) : []
  const [added, setAdded] = useState<OtherView[]>([])
  const { say } = useDesk()
  const [files, setFiles] = useState<CommentFile[]>([])
  const [busy, setBusy] = useState('')
  const add = useSteady(async (all: Iterable<File>) => {
    for (const f of all) {
      setBusy(sentences.adding(f.name))
      try {
        const path = `/comment-files?name=${encodeURIComponent(f.name)}&type=${encodeURIComponent(f.type)}`
        const v = await sendFile<CommentFile>(path, f, newKey(), 'application/octet-stream')
        setFiles((now) => [...now, v])
      } catch (e) {
        say({ text: told(e), wrong: true })
      }
    }
    setBusy('')
  })
  useEffect(() => {
    if (comment) return
    void add(takeDropped())
    return onDropped(() => void add(takeDropped()))
  }, [add, comment])
  const submit = () => {
    const come = added.filter((o) => text.includes('@' + o.name))
    void Promise.all(come.map((o) => post('/team/members', { person: o.id, role: 'member' }, newKey()))).then(
      () =>
        comment
          ? onSay('/comments/' + comment, { text })
          : onSay(`/conversations/${conversation}/comments`, { text, files: files.map((f) => f.id) }),
      (e: unknown) => say({ text: told(e), wrong: true }),
    )
  }
  const call = (name: string) => {
    const rest =
      begun === undefined ? text + (text && !/\s$/.test(text) ? ' @' : '@') : text.slice(0, text.length - begun.length)
    setText(rest + name + ' ')
    field.current?.focus()
  }
  return (
    <Tray
      label={comment ? sentences.changeComment : sentences.comment}
      testid="comment-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        if ((text.trim() || files.length) && !busy) submit()
      }}
    >
      <div className="min-w-0 flex-1">
        <TextArea
          ref={field}
          id="comment"
          label={sentences.saidToTheTeam}
          autoFocus
          rows={3}
          maxLength={LONGEST}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.nativeEvent.isComposing) return
            if (e.key === 'Tab' && !e.shiftKey && offered[0]) {
              e.preventDefault()
              call(offered[0].name)
            }
            if (e.key === 'Enter' && !e.shiftKey) {
              e.preventDefault()
              e.currentTarget.form?.requestSubmit()
            }
          }}
        />
        <p className="mt-1 flex min-h-6 flex-wrap items-center gap-x-3 text-[12px] text-ink-500" data-testid="callable">
          {others.length > 0 && sentences.notInTheTeam}
          {others.slice(0, 3).map((o) => (
            <TextButton
              key={o.id}
              small
              onClick={() => {
                setAdded([...added, o])
                call(o.name)
              }}
            >
              {sentences.addAndCall(o.name)}
            </TextButton>
          ))}
          {!others.length && (offered.length > 0 ? sentences.tabTakes : sentences.callThem)}
          {(others.length ? [] : offered.length ? offered : callable).slice(0, 6).map((m) => (
            <TextButton key={m.id} small onClick={() => call(m.name)}>
              @{m.name}
            </TextButton>
          ))}
          {!comment && (
            <FileButton
              words
              multiple
              label={sentences.filesForTheTeam}
              testid="comment-files"
              onFiles={(f) => void add(f)}
            >
              {sentences.addFiles}
            </FileButton>
          )}
        </p>
        {(files.length > 0 || busy) && (
          <ul className="flex flex-wrap gap-1.5 text-[12.5px]" aria-label={sentences.filesForTheTeam}>
            {files.map((f) => (
              <li
                key={f.id}
                className="flex max-w-64 items-center gap-1.5 rounded-[8px] border border-sand-300 py-0.5 pr-1 pl-2"
              >
                <PaperclipIcon size={13} className="shrink-0 text-ink-500" aria-hidden />
                <span className="truncate">{f.name}</span>
                <span className="shrink-0 text-ink-500">{size(f.size)}</span>
                <IconButton
                  label={sentences.removeFile(f.name)}
                  onClick={() => {
                    setFiles(files.filter((o) => o.id !== f.id))
                    void post(`/comment-files/${f.id}/drop`).catch(() => {}) // what nobody says is removed by itself
                  }}
                >
                  <XIcon size={11} aria-hidden />
                </IconButton>
              </li>
            ))}
            {busy && <li role="status">{busy}</li>}
          </ul>
        )}
      </div>
      <Button type="submit" disabled={(!text.trim() && !files.length) || !!busy}>
        {comment ? sentences.save : sentences.comment}
      </Button>
      <Button quiet onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}

const begins = (name: string, typed: string) =>
  name.toLowerCase().startsWith(typed) ||
  name
    .toLowerCase()
    .split(' ')
    .some((part) => part.startsWith(typed))

/** Beside a conversation of a team: who hears of each change of it. What is shown has been heard of. */
export function Following({ conversation, talk }: { conversation: number; talk: TalkView }) {
  const key = useKey('follow')
  const { act } = useDesk()
  const unheard = talk.unheard
  useEffect(() => {
    if (unheard > 0) void post('/activity/heard', { conversation }).catch(() => {}) // it stays new, and is asked again when it is next shown
  }, [conversation, unheard])
  const names = talk.followers.map((f) => f.name.split(' ')[0])
  return (
    <section className="mb-4 border-b border-sand-200 pb-3" data-testid="following">
      <h3 className="mb-0.5 text-[11.5px] text-ink-500">{sentences.following}</h3>
      <p className="break-words">{names.join(', ') || sentences.nobodyFollows}</p>
      <TextButton
        className="mt-1"
        data-tip={key}
        onClick={() => void act(`/conversations/${conversation}/follow`, { follows: !talk.follows })}
      >
        {talk.follows ? sentences.stopFollowing : sentences.follow}
      </TextButton>
    </section>
  )
}
