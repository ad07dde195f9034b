import { XIcon } from '@phosphor-icons/react'
import { useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { team } from '../../api/base'
import { keyed, put, told } from '../../api/client'
import { digits } from '../../api/digits'
import type { Decided } from '../../api/gen/journal'
import type { DidView, RuleView, Written } from '../../api/desk'
import type { Piece } from '../../api/gen/sorting'
import { refresh } from '../../api/queries'
import { useDid, useReadRule, useRuleLike, useRules } from './asking'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Keeps, useKept } from '../../frame/kept'
import { Button, IconButton, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { cx } from '../../kit/cx'
import { Field, TextArea, Wrong } from '../../kit/field'
import { Heading } from '../../kit/heading'
import { Failed } from '../../kit/kit'
import { useKeptValue } from '../../kit/keptvalue'
import { Loading } from '../../kit/loading'
import { Notice } from '../../kit/notice'
import { Select } from '../../kit/select'
import { Proof } from './proof'
import { sentences } from './sentences'
import { colon, without, withPiece } from './words'

/** One rule: written in words or by parts, with its proof beside it. */
export function Rule() {
  const { id } = useParams()
  const { data, error, refetch } = useRules()
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loadingTheRules} />
  const rule = data.find((r) => String(r.id) === id)
  return (
    <Keeps name={'rule/' + (id ?? 'new')} what={sentences.rule}>
      <Editor key={id} rule={rule} gone={!rule && id !== 'new'} />
    </Keeps>
  )
}

const starters = {
  when: [
    sentences.fromSomebody,
    sentences.withWords,
    sentences.inTheSubject,
    sentences.toMeAlone,
    sentences.newsletters,
    sentences.notices,
    sentences.withFiles,
    sentences.largerThan,
    sentences.fromStrangers,
    sentences.notImportant,
    sentences.onWeekends,
    sentences.inStream,
  ],
  then: [
    sentences.label,
    sentences.star,
    sentences.archive,
    sentences.bin,
    sentences.markRead,
    sentences.snoozeUntil,
    sentences.followUp,
    sentences.intoStream,
    sentences.letThrough,
    sentences.notify,
    sentences.runCombo,
    sentences.replyWith,
    sentences.forwardTo,
    sentences.handOverTo,
    ...(team ? [sentences.giveInTurn, sentences.giveTo] : []),
  ],
}

/** What a rule did that cannot be taken back. */
const didWords: Record<string, string> = {
  through: sentences.wasLetThrough,
  tell: sentences.wasTold,
  'reply-with': sentences.wasAnswered,
  'forward-to': sentences.wasForwarded,
}

function Editor({ rule, gone }: { rule?: RuleView; gone: boolean }) {
  const navigate = useNavigate()
  const desk = useDesk()
  const kept = useKept()
  const [asked] = useSearchParams()
  const like = Number(asked.get('like')) // a conversation whose like it is to be about
  const { data: suggested } = useRuleLike(rule ? 0 : like)
  const [typed, setTyped] = useState<string>()
  const words = typed ?? rule?.words ?? suggested?.words ?? asked.get('words') ?? ''
  const [name, setName] = useState(rule?.name ?? '')
  const [mode, setMode] = useKeptValue('mode', rule?.mode ?? 'trying')
  const [span, setSpan] = useState('1000')
  const [wrong, setWrong] = useState('')
  const [keyOf] = useState(keyed)
  const read = useReadRule(rule?.id ?? 0, words, Number(span)).data
  const write = (next: string) => {
    setTyped(next)
    setWrong('')
  }
  const leave = () => {
    kept.forget('rule/' + (rule?.id ?? 'new'))
    void navigate('/rules')
  }
  const save = async () => {
    try {
      const saving = { id: rule?.id ?? 0, name, words, mode, offer: Number(asked.get('offer')) || 0 }
      const done = await put<Decided>('/rules', saving, keyOf(saving))
      desk.say({ text: done.text, undo: done.entry > 0 })
      refresh(['rules', 'labels'])
      leave()
    } catch (e) {
      setWrong(told(e))
    }
  }
  const add = (side: string, piece: string) => {
    write(
      withPiece(words, side, piece.replace('…', '').replace('“”', '“').trimEnd() + (piece.endsWith('…') ? ' ' : '')),
    )
    requestAnimationFrame(() => {
      const area = document.querySelector<HTMLTextAreaElement>('#rule-words')
      area?.focus()
      const at = side === 'then' ? area?.value.length : colon(area?.value ?? '')
      if (area && at !== undefined && at >= 0) area.setSelectionRange(at, at)
    })
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(0,470px)] overflow-hidden max-[1060px]:block max-[1060px]:overflow-y-auto">
      <div className="min-h-0 overflow-y-auto bg-sand-50 px-[30px] pt-6 pb-10 max-[1060px]:overflow-visible max-[700px]:px-4">
        <p className="text-ink-500">
          <Link to="/setup" className="hover:underline">
            {sentences.setup}
          </Link>{' '}
          ·{' '}
          <Link to="/rules" className="hover:underline">
            {sentences.rules}
          </Link>
        </p>
        <Heading>{name || (rule?.called ?? sentences.newRule)}</Heading>
        {gone && <Notice>{sentences.ruleIsGone}</Notice>}
        <form
          className="mt-4"
          onSubmit={(e) => {
            e.preventDefault()
            void save()
          }}
        >
          <TextArea
            id="rule-words"
            label={sentences.inWords}
            value={words}
            rows={2}
            grows
            autoFocus
            maxLength={1000}
            placeholder={sentences.inWordsHint}
            onChange={(e) => write(e.target.value.replace(/\n/g, ' '))}
            onKeyDown={(e) => {
              if (e.key === 'Enter' && !e.nativeEvent.isComposing) {
                e.preventDefault()
                void save()
              }
            }}
          />
          <p className="min-h-5 pt-1 text-[12.5px] text-ink-500" data-testid="rule-doubt" aria-live="polite">
            {words.trim() && read?.wrong}
          </p>
          <div className="grid grid-cols-3 gap-3 max-[700px]:grid-cols-1">
            <Side name={sentences.whenAMessage} side="when" tone="bg-tide-100" read={read} words={words} write={write}>
              <Adding name={sentences.and} options={starters.when} add={(p) => add('when', p)} />
            </Side>
            <Side name={sentences.then} side="then" tone="bg-kelp-100" read={read} words={words} write={write}>
              <Adding name={sentences.andThen} options={starters.then} add={(p) => add('then', p)} />
            </Side>
            <Side name={sentences.butNotWhen} side="except" tone="bg-sand-200" read={read} words={words} write={write}>
              <Adding name={sentences.exceptWhen} options={starters.when} add={(p) => add('except', p)} />
            </Side>
          </div>
          <div className="mt-4 flex flex-wrap items-center gap-3">
            <RadioGroup
              label={sentences.rule}
              value={mode}
              options={[
                { id: 'off', name: sentences.off },
                { id: 'trying', name: sentences.tryItSilently },
                { id: 'on', name: sentences.on },
              ]}
              onChange={setMode}
            />
            <span className="text-[12.5px] text-ink-500">
              {mode === 'on' ? sentences.whenOn : mode === 'off' ? sentences.whenOff : sentences.whileTrying}
            </span>
          </div>
          <Field
            id="rule-name"
            className="mt-4 max-w-sm"
            label={sentences.name}
            value={name}
            maxLength={80}
            autoComplete="off"
            onChange={(e) => setName(e.target.value)}
          />
          {!!read?.proof.quarrels.length && (
            <div
              className="mt-4 rounded-[9px] border border-dashed border-amber-600 bg-amber-100 px-3.5 py-2.5"
              data-testid="quarrels"
            >
              <b className="block">{sentences.quarrels(read.proof.quarrels.length)}</b>
              {read.proof.quarrels.map((q) => (
                <p key={q}>{q}</p>
              ))}
            </div>
          )}
          {!!read?.rule.when.length && words.trim() && (
            <p className="mt-4 text-[12.5px] text-ink-500 min-[1061px]:hidden">
              {sentences.inShort(digits(read.proof.count), digits(read.proof.of), digits(read.proof.otherwise))}
            </p>
          )}
          <Wrong>{wrong}</Wrong>
          <div className="mt-4 flex flex-wrap gap-2">
            <Button type="submit" disabled={!words.trim() || gone}>
              {sentences.save}
            </Button>
            <Button quiet onClick={leave}>
              {sentences.cancel}
            </Button>
            {rule && (
              <Button
                ground="late-quiet"
                onClick={() => void desk.act(`/rules/${rule.id}/drop`).then((d) => d && (refresh(['rules']), leave()))}
              >
                {sentences.delete}
              </Button>
            )}
          </div>
        </form>
        {rule && <Past rule={rule} />}
      </div>
      <Proof
        read={words.trim() ? read : undefined}
        leaveOut={(from) => write(withPiece(words, 'except', from))}
        span={
          <Select
            label={sentences.span}
            hideLabel
            small
            className="w-56"
            value={span}
            options={[
              { id: '100', name: sentences.lastHundred },
              { id: '1000', name: sentences.lastThousand },
              { id: '10000', name: sentences.lastTenThousand },
            ]}
            onChange={setSpan}
          />
        }
      />
    </div>
  )
}

/** What a rule says on one side, each piece to be removed. */
function Side({
  name,
  side,
  tone,
  read,
  words,
  write,
  children,
}: {
  name: string
  side: Piece['side']
  tone: string
  read?: Written
  words: string
  write: (words: string) => void
  children: React.ReactNode
}) {
  const pieces = words.trim() ? (read?.pieces.filter((p) => p.side === side) ?? []) : []
  return (
    <div className="rounded-[10px] bg-sand-100 px-3 py-2.5" data-testid={'side-' + side}>
      <h2 className="mb-1.5 text-[12.5px] font-[650] text-ink-500">{name}</h2>
      <ul className="mb-1 grid justify-items-start gap-1">
        {!pieces.length && <li className="text-[13px] text-ink-500">{sentences.nothingSaid}</li>}
        {pieces.map((p) => (
          <li key={p.from} className="flex max-w-full items-center gap-1">
            {p.or && <span className="text-[12px] text-ink-500">{sentences.or}</span>}
            <span
              className={cx(
                'flex min-w-0 items-center gap-1 rounded-[5px] px-1.5 py-px text-[12.5px] font-[550]',
                tone,
              )}
            >
              <span className="min-w-0 break-words">{p.means}</span>
              <IconButton label={sentences.remove(p.means)} onClick={() => write(without(words, p.from, p.to))}>
                <XIcon size={11} aria-hidden />
              </IconButton>
            </span>
          </li>
        ))}
      </ul>
      {children}
    </div>
  )
}

/** One more piece, out of those that are offered. */
const Adding = ({ name, options, add }: { name: string; options: string[]; add: (piece: string) => void }) => (
  <Select
    label={name}
    hideLabel
    small
    value=""
    options={[{ id: '', name }, ...options.map((o) => ({ id: o, name: o }))]}
    onChange={(piece) => piece && add(piece)}
  />
)

/** What a rule has done and would have; each can be taken back, and all of it. */
function Past({ rule }: { rule: RuleView }) {
  const { data } = useDid(rule.id)
  const desk = useDesk()
  if (!data?.length) return null
  return (
    <section className="mt-8" data-testid="rule-did">
      <div className="mb-1 flex items-baseline justify-between gap-2">
        <h2 className="text-[15px]">{sentences.whatItDid}</h2>
        {data.some((d) => d.entry > 0 && !d.takenBack) && (
          <TextButton onClick={() => void desk.act(`/rules/${rule.id}/undo`).then(() => refresh(['rules']))}>
            {sentences.takeAllBack}
          </TextButton>
        )}
      </div>
      <ul>
        {data.map((d) => (
          <Done key={d.id} d={d} back={() => void desk.takeBack(d.entry).then(() => refresh(['rules']))} />
        ))}
      </ul>
    </section>
  )
}

const Done = ({ d, back }: { d: DidView; back: () => void }) => (
  <li className="flex items-baseline gap-3 border-b border-sand-200 py-1.5">
    <Link to={'/c/' + d.conversation} className="min-w-0 flex-1 truncate hover:underline">
      <b>{d.from.name || d.from.address}</b> {d.subject}
    </Link>
    <span className="text-[12px] whitespace-nowrap text-ink-500">
      {d.entry === 0
        ? (didWords[d.did ?? ''] ?? sentences.wouldHave) + ', '
        : d.takenBack
          ? sentences.takenBack + ', '
          : ''}
      {short(d.at)}
    </span>
    {d.entry > 0 && !d.takenBack && (
      <TextButton small onClick={back}>
        {sentences.takeBack}
      </TextButton>
    )}
  </li>
)
