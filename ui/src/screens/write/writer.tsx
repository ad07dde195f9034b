import { PaperclipIcon, XIcon } from '@phosphor-icons/react'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { api, team } from '../../api/base'
import type { Moment } from '../../api/gen/when'
import { useGrid } from '../../api/queries'
import { useMe } from '../../api/session'
import { long, size } from '../../api/times'
import { Button, IconButton, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { RadioGroup } from '../../kit/choose'
import { Field, TextArea } from '../../kit/field'
import { FileButton } from '../../kit/files'
import { Notice } from '../../kit/notice'
import { PeopleField } from '../../kit/people'
import { PhraseField } from '../../kit/phrase'
import { Select } from '../../kit/select'
import { Tray } from '../../kit/tray'
import { WeekGrid } from '../worktop/snooze'
import type { DraftState } from './keeping'
import { GiveRow, GivenBy } from './give'
import { Offers } from './offers'
import { sentences } from './sentences.writer'
import { Templates } from './templates'
import { Length, NumberField } from './text'
import { empty, type Props, useWriting } from './writing'

const modes = [
  { id: 'reply', name: sentences.reply },
  { id: 'reply-all', name: sentences.replyToAll },
  { id: 'forward', name: sentences.forward },
  { id: 'hand-over', name: sentences.handOver },
]

/** From which account, and from a team's by its name or by one's own. */
const senderOf = (account: number, named: boolean) => `${account}${named ? ' named' : ''}`

/** A message being written: kept as it is typed, sent with a key, and taken back for a while after. */
export function Writer(props: Props) {
  const { page, place, title, aside, offers = [], foot } = props
  const me = useMe().name
  const {
    accounts,
    d,
    standing,
    lost,
    begun,
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
    given,
    send,
    at_,
    elsewhere,
  } = useWriting(props)
  const to = at_('to')
  const [giving, setGiving] = useState(false)
  // Drawn anew only when what they show is another, and not with each letter of the text.
  const modesRow = useMemo(
    () =>
      d.message > 0 && (
        <RadioGroup
          label={sentences.whatItIs}
          look="plain"
          className="mr-2"
          value={d.mode}
          options={modes}
          onChange={mode}
        />
      ),
    [d.message, d.mode, mode],
  )
  const toField = useMemo(
    () => (
      <PeopleField
        key={d.mode}
        id="write-to"
        label={sentences.to}
        people={d.to}
        wrong={to}
        autoFocus={!d.to.length}
        onChange={(to) => change({ to })}
        aside={
          !more && (
            <TextButton small onClick={() => setMore(true)}>
              {sentences.cc}
            </TextButton>
          )
        }
      />
    ),
    [d.mode, d.to, to, more, setMore, change],
  )
  const ways = useMemo(
    () => (
      <>
        <FileButton words multiple label={sentences.files} testid="files" onFiles={(files) => void add(files)}>
          {sentences.addFiles}
        </FileButton>
        <TextButton small aria-pressed={templates} onClick={() => setTemplates(!templates)}>
          {sentences.templateAsk}
        </TextButton>
        <Checkbox testid="rich" checked={d.rich} onChange={(on) => change({ rich: on })}>
          {sentences.markdown}
        </Checkbox>
        {d.below && d.mode !== 'forward' && !handing && (
          <Checkbox checked={!d.bare} onChange={(on) => change({ bare: !on })}>
            {sentences.withTheEarlierMessage}
          </Checkbox>
        )}
      </>
    ),
    [d.rich, d.bare, d.below, d.mode, handing, templates, setTemplates, add, change],
  )
  const backField = useMemo(
    () => (
      <div>
        <PhraseField
          id="write-return"
          optional
          initial={begun.back}
          label={handing ? sentences.answerExpectedBy : fresh ? sentences.remindMeIfNobody : sentences.bringItBackIf}
          placeholder={handing ? sentences.thuNoon : sentences.fri}
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
    ),
    [begun, handing, fresh, form, setBack, setBackAt, close],
  )
  const receipt = useMemo(
    () => (
      <Checkbox checked={d.receipt} onChange={(on) => change({ receipt: on })}>
        {sentences.requestAReadReceipt}
      </Checkbox>
    ),
    [d.receipt, change],
  )
  return (
    <Tray
      page={page}
      ref={form}
      label={title ?? sentences.write}
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
      {page && <h1 className="sr-only">{title ?? sentences.write}</h1>}
      <div className={`flex min-w-0 flex-1 flex-col gap-1.5 ${page ? 'min-h-0 max-[900px]:flex-none' : ''}`}>
        <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
          {d.line ? <span className="text-ink-500">{sentences.textFrom(d.line)}</span> : modesRow}
          {!d.line && accounts.length * (team ? 2 : 1) > 1 && (
            <Select
              label={sentences.from}
              small
              className="ml-auto flex max-w-full min-w-0 items-baseline gap-1.5"
              value={senderOf(d.account, d.named)}
              options={accounts.flatMap((a) => [
                { id: senderOf(a.id, false), name: `${a.name} · ${a.address}` },
                ...(team ? [{ id: senderOf(a.id, true), name: `${me} · ${a.address}` }] : []),
              ])}
              onChange={(from) => change({ account: Number(from.split(' ')[0]), named: from.endsWith('named') })}
            />
          )}
        </div>
        <GivenBy draft={d} />
        {!d.line ? toField : d.conversation ? null : <NumberField d={d} wrong={to} change={change} />}
        {d.line && d.conversation > 0 && to && <Notice>{to}</Notice>}
        {more && !d.line && (
          <div className="grid grid-cols-2 gap-1.5 max-[700px]:grid-cols-1">
            <PeopleField
              id="write-cc"
              label={sentences.cc}
              people={d.cc}
              wrong={at_('cc')}
              onChange={(cc) => change({ cc })}
            />
            <PeopleField
              id="write-bcc"
              label={sentences.bcc}
              people={d.bcc}
              wrong={at_('bcc')}
              onChange={(bcc) => change({ bcc })}
            />
          </div>
        )}
        {d.line ? null : fresh || subject ? (
          <Field
            id="write-subject"
            label={sentences.subject}
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
              {sentences.change}
            </TextButton>
          </p>
        )}
        {offers.length > 0 && !preview && <Offers lines={offers} text={d.text} onText={(text) => change({ text })} />}
        {preview > 0 ? (
          <iframe
            key={preview}
            title={sentences.previewOfTheMessage}
            data-testid="preview"
            sandbox="allow-same-origin"
            src={`${api}/drafts/${d.id}/preview?v=${preview}`}
            className={`w-full rounded-[9px] border border-sand-300 bg-white ${page ? 'min-h-60 flex-1' : 'h-[196px]'}`}
          />
        ) : (
          <TextArea
            id="reply"
            label={handing ? sentences.aNote : sentences.theMessage}
            hideLabel
            serif
            tall={page}
            className={page ? 'flex min-h-40 flex-1 flex-col max-[900px]:min-h-72' : ''}
            autoFocus={d.to.length > 0}
            rows={page ? undefined : 7}
            value={d.text}
            placeholder={handing ? sentences.aNoteForThem : ''}
            onChange={(e) => change({ text: e.target.value })}
          />
        )}
        {(d.files.length > 0 || busy) && (
          <ul className="flex flex-wrap gap-1.5 text-[12.5px]" aria-label={sentences.filesThatGoWith}>
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
                <IconButton label={sentences.remove(f.name)} onClick={() => drop(f.id)}>
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
        {at_('files') && <Notice>{at_('files')}</Notice>}
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[12.5px] text-ink-500">
          {d.line ? (
            <>
              <Length text={d.text} />
              <TextButton small aria-pressed={templates} onClick={() => setTemplates(!templates)}>
                {sentences.templateAsk}
              </TextButton>
            </>
          ) : (
            ways
          )}
          {!d.line && (
            <TextButton
              small
              aria-pressed={preview > 0}
              onClick={() => {
                if (preview) setPreview(0)
                else void keep().then(() => setPreview(Date.now()))
              }}
            >
              {preview ? sentences.backToWriting : sentences.preview}
            </TextButton>
          )}
          <Standing lost={lost} standing={standing} />
        </div>
        {standing.apart > 0 && (
          <Notice testid="apart">
            {sentences.changedInAnotherWindow}{' '}
            <Link className="underline" to={'/writing/' + standing.apart}>
              {sentences.showTheOther}
            </Link>
          </Notice>
        )}
        {standing.anew && <Notice>{sentences.sentOrDeletedElsewhere}</Notice>}
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
        {giving && <GiveRow draft={d} keep={keep} onGiven={given} onClose={() => setGiving(false)} />}
        {later && (
          <LaterRow
            text={at}
            initial={begun.at}
            moment={atAt}
            wrong={at_('at')}
            repeat={repeat}
            repeatWrong={at_('repeat')}
            onRepeat={setRepeat}
            onText={setAt}
            onMoment={setAtAt}
            onClose={() => {
              setLater(false)
              setAtAt(null)
            }}
          />
        )}
      </div>
      <div className={`flex shrink-0 flex-col items-stretch gap-2 ${page ? 'w-[264px] max-[900px]:w-full' : ''}`}>
        {aside}
        {handing && (
          <Field
            id="write-expect"
            label={sentences.whatDoYouExpect}
            placeholder={sentences.answerAbout(d.subject.replace(/^Fwd: /, '').slice(0, 28))}
            value={expect}
            maxLength={400}
            autoComplete="off"
            onChange={(e) => setExpect(e.target.value)}
          />
        )}
        {backField}
        {at_('return') && <Notice className="-mt-1">{at_('return')}</Notice>}
        {!d.line && receipt}
        {place === 'inbox' && d.conversation > 0 && !(back.trim() && !fresh) && (
          <Checkbox checked={leaves} onChange={(on) => setLeaves(on)}>
            {sentences.itLeavesTheInbox}
          </Checkbox>
        )}
        {elsewhere && <Notice>{elsewhere}</Notice>}
        {asks ? (
          <div
            role="alert"
            className="rounded-[9px] bg-amber-100 px-3 py-2 text-[12.5px] text-amber-600"
            data-testid="asks"
          >
            <p className="mb-1.5 font-semibold">{asks.asks}</p>
            <div className="flex gap-1.5">
              <Button data-testid="send-anyway" onClick={() => void send(true)}>
                {sentences.sendIt}
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
                {asks.field === 'files' ? sentences.addTheFile : sentences.notYet}
              </Button>
            </div>
          </div>
        ) : (
          <div className="flex flex-wrap items-center gap-1.5">
            <Button data-testid="send" disabled={!!busy} onClick={() => void send()}>
              {handing ? sentences.handOver : at.trim() ? sentences.sendThen : sentences.send}{' '}
              <span className="ml-1 font-normal">{sentences.ctrlEnter}</span>
            </Button>
            {!later && (
              <Button quiet className="px-2.5" onClick={() => setLater(true)}>
                {sentences.later}
              </Button>
            )}
            {team > 0 && !giving && !empty(d) && (
              <Button quiet className="px-2.5" onClick={() => setGiving(true)}>
                {sentences.giveTo}
              </Button>
            )}
          </div>
        )}
        {}
        {foot?.(keep)}
        <TextButton tone="faint" className="self-start" onClick={close}>
          {empty(d) ? sentences.close : sentences.saveTheDraftAnd}
        </TextButton>
      </div>
    </Tray>
  )
}

/** Whether what was typed is saved, and why not. */
const Standing = ({ lost, standing }: { lost: string; standing: DraftState }) => {
  const wrong = lost || (standing.away ? sentences.keptHere : standing.trouble)
  return (
    <span className={`ml-auto ${wrong ? 'text-coral-600' : ''}`} role={wrong ? 'alert' : undefined} data-testid="kept">
      {wrong || (standing.savedAt ? sentences.saved(long(standing.savedAt)) : sentences.savedAsYouType)}
    </span>
  )
}

/** When it is sent: in words, or by a part of the coming week. */
function LaterRow({
  text,
  initial,
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
  initial: string
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
          label={sentences.sendItWhen}
          placeholder={sentences.tomorrow8}
          autoFocus
          optional
          initial={initial}
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
          <p className="text-[12.5px] font-semibold text-accent">{sentences.itGoes(long(moment.at))}</p>
        )}
        {wrong && <Notice>{wrong}</Notice>}
        <Field
          id="write-repeat"
          label={sentences.andAgainOptional}
          placeholder={sentences.everyMonday}
          value={repeat}
          wrong={repeatWrong}
          autoComplete="off"
          maxLength={100}
          onChange={(e) => onRepeat(e.target.value)}
        />
        <TextButton tone="faint" className="mt-1" onClick={onClose}>
          {sentences.sendItAtOnce}
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
