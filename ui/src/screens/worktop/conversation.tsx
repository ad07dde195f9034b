import { NotePencilIcon, StarIcon } from '@phosphor-icons/react'
import { type CSSProperties, Fragment, memo, Suspense, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { CommentView, ConversationView, MessageView, Slip } from '../../api/desk'
import { useConversation } from '../../api/queries'
import { called } from '../../api/names'
import { date, long, plural } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands, useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { turnLetters, useLetters } from '../../frame/letters'
import { useReadingNoted } from '../../frame/noted'
import { CardButton, IconButton, TextButton } from '../../kit/button'
import { Chip, Failed } from '../../kit/kit'
import { LabelChip } from '../../kit/label'
import { LineButton } from '../../kit/pieces'
import { BesideContext, fileIn, fileText } from './beside'
import type { Tray } from './deciding'
import { FindingContext } from './found'
import { Message } from './message'
import { sentences } from './sentences'
import { Above, Aside, Below, Comment, FileColumn, Marks, Outline } from './trays'
import { dueChip, kindName, ordinal } from './why'

const FEW = 3 // messages that are shown rather than counted
const LONG = 5 // messages from which a conversation has an outline

/** The reading column and what is between the reader and the sender. */
export function Conversation({
  id,
  slip,
  back,
  edit,
}: {
  id: number
  slip?: Slip
  back?: () => void
  edit: (tray: Tray) => void
}) {
  const { data, error, refetch } = useConversation(id)
  const letters = useLetters()
  const column = useRef<HTMLDivElement>(null)
  const scrolled = useRef(false)
  const [gone, setGone] = useState<{ to: number }>() // to that message, from the outline
  useEffect(() => document.getElementById('message-' + gone?.to)?.scrollIntoView(), [gone])
  useEffect(() => {
    if (scrolled.current) column.current?.scrollTo(0, 0) // only then: it has all laid out before it is painted
    scrolled.current = false
  }, [id])
  const end = useReadingNoted(id, data?.slip.id === id ? (data.messages.at(-1)?.id ?? 0) : 0)
  const page = (by: number) => column.current?.scrollBy({ top: by * column.current.clientHeight * 0.85 })
  useCommands([
    { id: 'page-down', run: () => page(1), hidden: true },
    { id: 'page-up', run: () => page(-1), hidden: true },
    { id: 'larger', run: () => turnLetters(1) },
    { id: 'smaller', run: () => turnLetters(-1) },
  ])
  const shown = data?.slip ?? slip
  const finding = useContext(FindingContext)
  const [file, setFile] = useState(() => fileIn(fromAddress('file'))) // of this conversation, or of one it was opened in
  const its = data?.messages.some((m) => m.id === file?.message && m.files[file.number]) ? file : undefined
  const beside = useMemo(() => ({ conversation: id, at: its, open: setFile }), [id, its])
  useInAddress({ file: fileText(data ? its : file) }, (was) => setFile(fileIn(was('file'))))
  return (
    <BesideContext value={beside}>
      <section
        ref={column}
        onScroll={() => {
          scrolled.current = true
        }}
        aria-label={sentences.conversation}
        className="apart reading-column min-h-0 overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-8 max-[700px]:px-4"
        style={{ '--letters': letters } as CSSProperties}
        tabIndex={-1}
      >
        {back && <Back back={back} />}
        {shown && <Heading slip={shown} view={data} edit={edit} />}
        {data?.note && (
          <CardButton look="tide" className="mb-3 flex gap-2" data-testid="note" onClick={() => edit('note')}>
            <NotePencilIcon size={16} className="mt-px shrink-0 text-accent" aria-label={sentences.note} />
            <span className="min-w-0 break-words whitespace-pre-wrap">{data.note}</span>
          </CardButton>
        )}
        {data?.draft.text && (
          <CardButton
            className="mb-3 flex items-baseline gap-2"
            data-testid="draft"
            onClick={() =>
              edit(data.draft.mode === 'forward' ? 'forward' : data.draft.mode === 'hand-over' ? 'pass-on' : 'reply')
            }
          >
            <b className="shrink-0 text-[12px] text-accent">{sentences.yourDraft(long(data.draft.changed))}</b>
            <span className="truncate text-ink-500">{data.draft.text}</span>
          </CardButton>
        )}
        {data && (
          <Suspense fallback={null}>
            <Above data={data} edit={edit} />
          </Suspense>
        )}
        {error && <Failed error={error} again={() => void refetch()} />}
        {data && (
          <Messages
            key={id}
            conversation={id}
            messages={data.messages}
            comments={data.talk?.comments}
            edit={edit}
            found={data.messages.find((m) => m.id === gone?.to)?.id ?? finding.at(id)?.message}
          />
        )}
        {data && (
          <Suspense fallback={null}>
            <Below id={id} data={data} edit={edit} />
          </Suspense>
        )}
        {finding.terms.length > 0 && (
          <Suspense fallback={null}>
            <Marks column={column} terms={finding.terms} id={id} />
          </Suspense>
        )}
        <div ref={end} className="h-px" />
      </section>
      {data?.messages.some((m) => m.files.length > 0) && (
        <Suspense fallback={null}>
          <FileColumn view={data} at={its} open={setFile} answer={() => edit('reply')} />
        </Suspense>
      )}
      {!its && (
        <aside
          aria-label={sentences.betweenYou}
          className="apart between min-h-0 overflow-y-auto border-l border-sand-200 bg-sand-50 px-4 py-[18px] text-[12.5px]"
        >
          {data && data.messages.length >= LONG && (
            <Suspense fallback={null}>
              <Outline messages={data.messages} go={(to) => setGone({ to })} />
            </Suspense>
          )}
          {data && (
            <Suspense fallback={null}>
              <Aside view={data} />
            </Suspense>
          )}
        </aside>
      )}
    </BesideContext>
  )
}

const Back = memo(function Back({ back }: { back: () => void }) {
  return (
    <TextButton className="mb-2 min-[701px]:hidden" onClick={back}>
      {sentences.inbox}
    </TextButton>
  )
})

function Heading({ slip, view, edit }: { slip: Slip; view?: ConversationView; edit: (tray: Tray) => void }) {
  const last = view?.messages.at(-1)
  const others = [...(last?.to ?? []), ...(last?.cc ?? [])]
  const to =
    last && !last.own
      ? others.length > 1
        ? sentences.toYouAnd(plural(others.length - 1, sentences.other))
        : sentences.toYou
      : ''
  return (
    <>
      <h1 className="text-[22px] leading-[1.2] font-[650] tracking-[-.02em] break-words" data-testid="subject">
        {slip.title || slip.subject}
      </h1>
      {slip.title && <p className="mt-1 text-[12px] text-ink-500">{sentences.subject(slip.subject)}</p>}
      <p className="mt-[7px] mb-3.5 flex flex-wrap items-center gap-2 text-[12.5px] text-ink-500">
        {slip.starred && <StarIcon size={15} weight="fill" className="text-accent" aria-label={sentences.starred} />}
        {kindName(slip.kind) && <Chip>{kindName(slip.kind)}</Chip>}
        {slip.kind === 'list' && (
          <TextButton className="no-print" onClick={() => edit('leave-list')}>
            {sentences.leaveIt}
          </TextButton>
        )}
        {slip.due && <Chip tone={dueChip(slip.due).tone}>{dueChip(slip.due).text}</Chip>}
        {slip.labels.map((l) => (
          <LabelChip key={l} id={l} whole />
        ))}
        <span className="min-w-0 break-words">
          {[
            slip.from,
            to,
            slip.messages > 1 && plural(slip.messages, sentences.message),
            slip.looks > 0 && sentences.look(ordinal(slip.looks + 1)),
          ]
            .filter(Boolean)
            .join(' · ')}
        </span>
        <span className="no-print ml-auto flex items-baseline gap-3">
          {(view?.messages.reduce((n, m) => n + m.files.length, 0) ?? 0) > 1 && (
            <Link to={'/files/' + slip.id} className="text-[12.5px] text-ink-500 hover:text-ink-900 hover:underline">
              {sentences.allFiles}
            </Link>
          )}
          <Letters />
          <Naming note={!view?.note} edit={edit} />
        </span>
      </p>
    </>
  )
}

/** Makes the text of messages smaller and larger. */
const Letters = memo(function Letters() {
  const larger = useKey('larger')
  const smaller = useKey('smaller')
  return (
    <span className="flex">
      <IconButton label={sentences.smallerText(smaller)} onClick={() => turnLetters(-1)}>
        <span className="font-serif text-[12px]">A</span>
      </IconButton>
      <IconButton label={sentences.largerText(larger)} onClick={() => turnLetters(1)}>
        <span className="font-serif text-[17px]">A</span>
      </IconButton>
    </span>
  )
})

/** What it is called, and what is noted of it. */
const Naming = memo(function Naming({ note, edit }: { note: boolean; edit: (tray: Tray) => void }) {
  return (
    <>
      <TextButton tone="faint" onClick={() => edit('rename')}>
        {sentences.rename}
      </TextButton>
      {note && (
        <TextButton tone="faint" onClick={() => edit('note')}>
          {sentences.addANote}
        </TextButton>
      )}
    </>
  )
})

/** The newest messages open, the earlier ones behind one line. */
function Messages({
  conversation,
  messages,
  comments = [],
  edit,
  found = 0,
}: {
  conversation: number
  messages: MessageView[]
  comments?: CommentView[] // of the team, each behind the message that was the newest then
  edit: (tray: Tray) => void
  found?: number // the message in which something was found: it is open, too
}) {
  const { act } = useDesk()
  const [asked, setAll] = useState(false)
  // A message, or all from it on, becomes a conversation of its own.
  const part =
    messages.length < 2
      ? undefined
      : (id: number, on: boolean) => {
          const at = messages.findIndex((m) => m.id === id)
          void act(`/conversations/${conversation}/part`, { messages: on ? messages.slice(at).map((m) => m.id) : [id] })
        }
  const [opened] = useState(messages.filter((m) => m.blocks !== null).map((m) => m.id)) // and stay so, also once they are not new
  const isOpen = (m: MessageView) => m.blocks !== null || m.id === found || opened.includes(m.id)
  const first = messages.findIndex((m) => m.blocks !== null || opened.includes(m.id))
  const from = first < 0 ? messages.length - 1 : first
  const earlier = messages.slice(0, from)
  const all = asked || earlier.some((m) => m.id === found)
  const [fresh] = useState(messages.filter((m, i) => m.fresh && i > 0)) // as it was opened
  // Of many that are new the first are open, and the newest; those between are behind one line.
  const [asksBetween, setBetween] = useState(false)
  const closed = messages.findIndex((m, i) => i > from && !isOpen(m))
  const newest = messages.length - 1
  const hides =
    closed > 0 && newest - closed > FEW && !asksBetween && !messages.slice(closed).some((m) => m.id === found)
  const gap = hides ? closed : messages.length
  const between = hides ? messages.slice(closed, newest) : []
  const behind = (c: CommentView) => (messages.findLast((m) => m.date <= c.at) ?? messages[0])?.id
  const said = (m?: MessageView) => {
    const its = comments.filter((c) => m && behind(c) === m.id)
    return (
      its.length > 0 && (
        <Suspense fallback={null}>
          {its.map((c) => (
            <Comment key={c.id} comment={c} edit={edit} />
          ))}
        </Suspense>
      )
    )
  }
  const one = (m: MessageView) => (
    <Fragment key={m.id}>
      {m.id === fresh[0]?.id && (
        <p
          className="border-t-2 border-coral-600 pt-1 text-[12px] font-semibold text-coral-600"
          data-testid="new-since"
        >
          {sentences.newSince(fresh.length)}
        </p>
      )}
      <Message message={m} open={isOpen(m)} part={part} />
      {said(m)}
    </Fragment>
  )
  const names = [...new Set(earlier.map((m) => (m.own ? 'you' : called(m.from.name || m.from.address))))]
  return (
    <>
      {earlier.length > 0 && !all && (
        <LineButton
          className="border-t border-sand-200 py-[9px] text-[12.5px] text-ink-500"
          onClick={() => setAll(true)}
        >
          {plural(earlier.length, sentences.earlierMessage)}, {span(earlier)} — {names.slice(0, 5).join(', ')}
          {names.length > 5 ? sentences.andOthers : ''}
        </LineButton>
      )}
      {all
        ? earlier.map((m) => (
            <Fragment key={m.id}>
              <Message message={m} open={m.id === found} part={part} />
              {said(m)}
            </Fragment>
          ))
        : said(earlier.at(-1))}
      {messages.slice(from, gap).map(one)}
      {between.length > 0 && (
        <LineButton
          className="border-t border-sand-200 py-[9px] text-[12.5px] text-ink-500"
          onClick={() => setBetween(true)}
        >
          {plural(between.length, sentences.moreMessage)}, {span(between)}
        </LineButton>
      )}
      {said(between.at(-1))}
      {messages.slice(gap + between.length).map(one)}
    </>
  )
}

function span(messages: MessageView[]) {
  const a = date(messages[0].date)
  const b = date(messages[messages.length - 1].date)
  return a === b ? a : sentences.to(a, b)
}
