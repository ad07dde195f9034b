import { ShieldCheckIcon, WarningIcon } from '@phosphor-icons/react'
import { Fragment, Suspense, useCallback, useContext, useEffect, useRef, useState } from 'react'
import { api } from '../../api/base'
import { post, told } from '../../api/client'
import type { MessageView } from '../../api/desk'
import type { Address, Block } from '../../api/gen/mail'
import { client, refresh, useMessage } from '../../api/queries'
import { long, plural, size } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { useLetters } from '../../frame/letters'
import { Opener, TextButton } from '../../kit/button'
import { Collapsible } from '../../kit/collapsible'
import { cx } from '../../kit/cx'
import { BesideContext } from './beside'
import { sentences } from './sentences'
import { Details, FileChips } from './trays'

const short = (a: Address) => a.name || a.address || sentences.unknownSender

interface Props {
  message: MessageView
  open: boolean
  part?: (id: number, on: boolean) => void
}

/** One message of a conversation: folded to a line, or open to read. */
export function Message({ open: first, ...props }: Props) {
  const [open, setOpen] = useState(first)
  const [was, setWas] = useState(first)
  if (was !== first) {
    setWas(first)
    if (first) setOpen(true) // something was found in it, while another of these messages was shown
  }
  const [all, setAll] = useState(false)
  const [details, setDetails] = useState(false)
  const [asks, setAsks] = useState(false) // and goes on asking: another part would begin anew
  const { blocks, rest } = props.message
  if (!asks && (blocks === null || rest > 0)) setAsks(true)
  const Part = asks ? Asked : Shown
  return <Part {...props} {...{ open, setOpen, all, setAll, details, setDetails }} />
}

type ShownProps = Props & {
  setOpen: (open: boolean) => void
  all: boolean // of a very long one
  setAll: (all: boolean) => void
  details: boolean // its sender and recipients are shown
  setDetails: (details: boolean) => void
}

/** One of which something has not come with its conversation; few are. */
function Asked(props: ShownProps) {
  const { message, open, all } = props
  const asked = message.blocks === null || all
  const loaded = useMessage(message.id, open && asked, all)
  return <Shown {...props} message={asked && loaded.data ? loaded.data : message} />
}

function Shown({ message: m, open, setOpen, all, setAll, details, setDetails, part }: ShownProps) {
  const { act } = useDesk()
  const { conversation } = useContext(BesideContext)
  return (
    <article
      id={'message-' + m.id}
      className="border-t border-sand-200 py-3.5"
      aria-label={`${m.own ? sentences.you : short(m.from)}, ${long(m.date)}`}
    >
      <div className="mb-2 flex justify-between gap-3">
        <Opener open={open} className="truncate" onClick={() => setOpen(!open)}>
          <b>{m.own ? sentences.you : short(m.from)}</b>
          {m.language && <span className="ml-2 text-[12px] text-ink-500">{sentences.inLanguage(m.language)}</span>}
          {!open && m.files.length > 0 && (
            <span className="ml-2 text-[12px] text-ink-500">{plural(m.files.length, sentences.file)}</span>
          )}
        </Opener>
        <Opener
          open={details}
          className="shrink-0 text-[12px] text-ink-500"
          title={sentences.showSenderAndRecipients}
          onClick={() => setDetails(!details)}
        >
          {long(m.date)}
          {m.reached && sentences.reached}
        </Opener>
      </div>
      {details && (
        <Suspense fallback={null}>
          <Details m={m} conversation={conversation} part={part} />
        </Suspense>
      )}
      {open && (
        <>
          {m.junk && (
            <p
              className="mb-2.5 rounded-[9px] bg-sand-100 px-3 py-1.5 text-[12.5px] text-ink-700"
              data-testid="why-junk"
            >
              {sentences.whyJunk(m.junk)}
            </p>
          )}
          {m.seems && (
            <p
              className="mb-2.5 flex items-baseline gap-2 rounded-[9px] bg-amber-100 px-3 py-1.5 text-[13px] text-amber-600"
              data-testid="seems"
              role="note"
            >
              <WarningIcon size={14} weight="bold" className="shrink-0 translate-y-0.5" aria-hidden />
              {m.seems}
            </p>
          )}
          {m.reports.length > 0 && (
            <ul
              className={cx(
                'mb-2.5 rounded-[9px] px-3 py-1.5 text-[13px]',
                m.reports.some((r) => r.failed) ? 'bg-coral-100 text-coral-600' : 'bg-kelp-100 text-kelp-600',
              )}
              data-testid="reports"
            >
              {m.reports.map((r) => (
                <li key={r.text}>{r.text}</li>
              ))}
            </ul>
          )}
          {m.wants && (
            <p
              className="mb-2.5 flex flex-wrap gap-x-3 rounded-[9px] bg-sand-100 px-3 py-1.5 text-[12.5px] text-ink-700"
              data-testid="wants"
            >
              {sentences.wouldLikeToKnow(short(m.from))}
              <TextButton
                onClick={() =>
                  void act(`/messages/${m.id}/receipt`).then(() =>
                    client.invalidateQueries({ queryKey: ['message', m.id] }),
                  )
                }
              >
                {sentences.tellThem}
              </TextButton>
            </p>
          )}
          {m.raw && <p className="mb-2 text-[12.5px] text-amber-600">{sentences.thisMessageCouldNot}</p>}
          {m.blocks === null ? (
            <p className="text-ink-500">…</p>
          ) : m.html ? (
            <HTMLBody m={m} all={all} />
          ) : (
            <TextBody blocks={m.blocks} raw={m.raw} />
          )}
          {m.stub > 0 && <Stub m={m} />}
          {m.rest > 0 && (
            <p
              className="mt-2 flex flex-wrap gap-x-3 rounded-[9px] bg-sand-100 px-3 py-1.5 text-[12.5px] text-ink-700"
              data-testid="rest"
            >
              {sentences.thisMessageIsVery(size(m.rest))}
              <TextButton disabled={all} onClick={() => setAll(true)}>
                {sentences.showAll}
              </TextButton>
            </p>
          )}
          {m.files.length > 0 && (
            <Suspense fallback={<p className="mt-3 h-[26px]" />}>
              <FileChips m={m} />
            </Suspense>
          )}
        </>
      )}
    </article>
  )
}

/** A message of which only the header is here, as it was too large to be fetched by itself. */
function Stub({ m }: { m: MessageView }) {
  const { say } = useDesk()
  const [busy, setBusy] = useState(false)
  const fetchIt = () => {
    setBusy(true)
    post(`/messages/${m.id}/whole`)
      .then(() => refresh(['mail']))
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
      .finally(() => setBusy(false))
  }
  return (
    <p
      className="mt-2 flex flex-wrap gap-x-3 rounded-[9px] bg-amber-100 px-3 py-1.5 text-[12.5px] text-amber-600"
      data-testid="stub"
    >
      {m.stub > 1_000_000 ? sentences.thisMessageHasToo(size(m.stub)) : sentences.theServerDidNot}
      <TextButton disabled={busy} onClick={fetchIt}>
        {busy ? sentences.fetching : sentences.fetchItNow}
      </TextButton>
    </p>
  )
}

function TextBody({ blocks, raw }: { blocks: Block[]; raw: boolean }) {
  if (raw)
    return (
      <pre className="max-w-full overflow-x-auto rounded-[8px] bg-sand-50 p-3 font-mono text-[12px] whitespace-pre-wrap">
        {blocks.map((b) => b.text).join('\n')}
      </pre>
    )
  return (
    <div className="reading" data-testid="body">
      {blocks.map((b, i) =>
        b.quoted ? <Quoted key={i} text={b.text} alone={b.alone} /> : <Paragraphs key={i} text={b.text} />,
      )}
      {blocks.length === 0 && <p className="font-sans text-[13px] text-ink-500">{sentences.thisMessageHasNo}</p>}
    </div>
  )
}

const Paragraphs = ({ text }: { text: string }) =>
  text.split(/\n{2,}/).map((p, i) => (
    <p key={i} className="mb-[9px] whitespace-pre-wrap" dir="auto">
      <Linked text={p} />
    </p>
  ))

function Quoted({ text, alone = false }: { text: string; alone?: boolean }) {
  const [open, setOpen] = useState(alone)
  return (
    <Collapsible
      head={sentences.quotedText(plural(text.split('\n').length, sentences.line))}
      open={open}
      onOpenChange={setOpen}
      className="my-2"
      headClass="font-sans text-[12.5px] text-ink-500"
    >
      <blockquote
        className="mt-1.5 border-l-2 border-sand-300 pl-3 text-[14px] whitespace-pre-wrap text-ink-700"
        dir="auto"
      >
        {text}
      </blockquote>
    </Collapsible>
  )
}

const address = /(https?:\/\/[^\s<>"]+[^\s<>".,;:!?)\]])/
/** Text whose web addresses are links that say where they go. */
const Linked = ({ text }: { text: string }) =>
  text.split(address).map((part, i) =>
    i % 2 ? (
      <a
        key={i}
        href={part}
        target="_blank"
        rel="noopener noreferrer nofollow"
        title={part}
        className="text-accent underline"
      >
        {part}
      </a>
    ) : (
      <Fragment key={i}>{part}</Fragment>
    ),
  )

/** HTML in a sandboxed frame without scripts, as tall as what it holds. */
function HTMLBody({ m, all }: { m: MessageView; all: boolean }) {
  const [remote, setRemote] = useState(false)
  const [height, setHeight] = useState(80)
  const [target, setTarget] = useState('')
  const frame = useRef<HTMLIFrameElement>(null)
  const known = useRef<Document>(null)
  const letters = useLetters()
  const measures = useRef(() => {})
  const theme = document.documentElement.classList.contains('dark') ? 'dark' : 'light'
  const loaded = useCallback(() => {
    const doc = frame.current?.contentDocument
    if (!doc?.body || doc.URL === 'about:blank' || doc === known.current) return // not the message yet, or measured and heard already
    known.current = doc
    const measure = () =>
      setHeight(
        Math.min(
          Math.ceil(
            doc.documentElement.getBoundingClientRect().height * (Number(doc.documentElement.style.zoom) || 1),
          ) + (doc.documentElement.scrollWidth > doc.documentElement.clientWidth ? 18 : 2),
          60_000,
        ),
      )
    measures.current = measure
    measure()
    new ResizeObserver(measure).observe(doc.documentElement)
    // Keys pressed while the frame has the focus belong to Ebbe all the same.
    doc.addEventListener('keydown', (e) => {
      if (e.key === 'Enter' && (e.target as Element).closest?.('a')) return // it opens the link
      const copy = new KeyboardEvent('keydown', {
        key: e.key,
        code: e.code,
        isComposing: e.isComposing,
        modifierAltGraph: e.getModifierState('AltGraph'),
        ctrlKey: e.ctrlKey,
        metaKey: e.metaKey,
        shiftKey: e.shiftKey,
        altKey: e.altKey,
        bubbles: true,
        cancelable: true,
      })
      if (!frame.current?.dispatchEvent(copy)) e.preventDefault()
    })
    const point = (e: MouseEvent | FocusEvent) =>
      setTarget((e.target as Element).closest?.('a')?.getAttribute('href') ?? '')
    doc.addEventListener('mouseover', point)
    doc.addEventListener('focusin', point)
    doc.addEventListener('mouseleave', () => setTarget(''))
  }, [])
  useEffect(() => {
    if (frame.current?.contentDocument?.readyState === 'complete') loaded()
  }, [loaded])
  useEffect(() => {
    const root = known.current?.documentElement
    if (!root) return
    root.style.setProperty('zoom', String(letters)) // by script: the policy of the frame has no styles of elements
    measures.current()
  }, [letters, height])
  const src = `${api}/messages/${m.id}/body?theme=${theme}&remote=${remote ? 1 : 0}${all ? '&all=1' : ''}`
  return (
    <div className="max-w-[720px]">
      {m.remote > 0 && (
        <p className="mb-2.5 flex items-center gap-2 rounded-[9px] bg-sand-100 px-3 py-1.5 text-[12.5px] text-ink-700">
          <ShieldCheckIcon size={16} aria-hidden />
          {remote
            ? sentences.shownFromRemoteServers(plural(m.remote, sentences.picture))
            : sentences.blockedSoTheSender(plural(m.remote, sentences.remotePicture))}
          {!remote && <TextButton onClick={() => setRemote(true)}>{sentences.show}</TextButton>}
        </p>
      )}
      <iframe
        key={src} // another frame for what is shown anew: going elsewhere within one would be a step of the browser
        ref={frame}
        title={sentences.messageFrom(short(m.from))}
        sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
        src={src}
        onLoad={loaded}
        data-testid="frame"
        className="w-full rounded-[6px]"
        style={{ height }}
      />
      {target && (
        <p className="fixed bottom-0 left-0 z-40 max-w-[70%] truncate rounded-tr-[8px] bg-ink-900 px-3 py-1 text-[12px] text-sand-0">
          {target}
        </p>
      )}
    </div>
  )
}
