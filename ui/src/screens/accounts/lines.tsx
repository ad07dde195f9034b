import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { EbbeError, get, keyed, post, put, told } from '../../api/client'
import type { PhoneDraft, PhoneLine, PhoneLines } from '../../api/desk'
import { client } from '../../api/queries'
import { useMe } from '../../api/session'
import { useDesk } from '../../frame/desk'
import { useTyped } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Collapsible } from '../../kit/collapsible'
import { Dialog } from '../../kit/dialog'
import { Field, TextArea } from '../../kit/field'
import { Chip } from '../../kit/kit'
import { Notice } from '../../kit/notice'
import { Select } from '../../kit/select'
import { sentences } from './sentences.lines'

export const useLines = () => useQuery({ queryKey: ['lines'], queryFn: () => get<PhoneLines>('/lines') })

/** The telephone lines, by which texts come and go. */
export function Lines({ open, onOpen }: { open?: number; onOpen: (id?: number) => void }) {
  const { data } = useLines()
  const me = useMe()
  if (!data) return null
  const done = () => {
    void client.invalidateQueries({ queryKey: ['lines'] })
    onOpen(undefined)
  }
  if (open !== undefined)
    return (
      <LineForm
        key={open}
        line={data.lines.find((l) => l.id === open)}
        usual={data.usual}
        name={me.name}
        onDone={done}
      />
    )
  return (
    <section aria-label={sentences.telephoneLines} className="grid gap-3 border-t border-sand-200 pt-4">
      <div className="flex items-center justify-between gap-4">
        <div>
          <h2 className="text-[16px] tracking-[-.01em]">{sentences.telephoneLines}</h2>
          <p className="text-ink-500">{sentences.byAGateway}</p>
        </div>
        <Button quiet onClick={() => onOpen(0)}>
          {sentences.addALine}
        </Button>
      </div>
      <ul className="grid grid-cols-[minmax(0,1fr)] gap-3">
        {data.lines.map((l) => (
          <li key={l.id} className="rounded-[10px] border border-sand-200 px-4 py-3" data-testid="line">
            <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
              <b className="text-[15px]">{l.name}</b>
              <span className="text-ink-500">{l.says}</span>
              <span className="ml-auto">
                {l.paused ? <Chip>{sentences.paused}</Chip> : <Chip tone="done">{sentences.open}</Chip>}
              </span>
              <TextButton onClick={() => onOpen(l.id)}>{sentences.change}</TextButton>
            </div>
            {l.hook && <Hook path={l.hook} />}
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Where the gateway is to tell Ebbe of texts. */
const Hook = ({ path }: { path: string }) => (
  <p className="mt-1 text-[12.5px] break-all text-ink-500">
    {sentences.tellsOfThem} <code className="text-ink-900">{location.origin + path}</code>
  </p>
)

const words = (text: string) =>
  text
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)

/** A telephone line: its number, its gateway, and what it says by itself. */
function LineForm({
  line,
  usual,
  name,
  onDone,
}: {
  line?: PhoneLine
  usual: PhoneDraft['gateway'] // how most gateways are spoken to
  name: string
  onDone: () => void
}) {
  const [first] = useState<PhoneDraft>(() => ({
    id: line?.id ?? 0,
    name: line?.name ?? '',
    fullName: line?.fullName ?? name,
    number: line?.says ?? '',
    region: '',
    secret: '',
    paused: line?.paused ?? false,
    stops: line?.stops ?? [],
    stopped: line?.stopped ?? '',
    answer: line?.answer ?? { when: '', text: '' },
    gateway: line?.gateway ?? usual,
  }))
  const [v, setV, forget] = useTyped(`line/${line?.id ?? 0}`, first, sentences.aTelephoneLine)
  const [secret, setSecret] = useState('') // which is kept nowhere in the browser
  const leave = () => {
    forget()
    onDone()
  }
  const [wrong, setWrong] = useState<{ field: string; text: string }>()
  const [fields, setFields] = useState(false)
  const [keyOf] = useState(keyed)
  const { say } = useDesk()
  const g = v.gateway
  const change = (c: Partial<PhoneDraft>) => {
    setV({ ...v, ...c })
    setWrong(undefined)
  }
  const gate = (c: Partial<typeof g>) => change({ gateway: { ...g, ...c } })
  const at = (field: string) => (wrong?.field === field ? wrong.text : undefined)
  const save = () => {
    const draft = { ...v, secret }
    void put<PhoneLine>('/lines', draft, keyOf(draft)).then(
      () => {
        say({ text: sentences.saved })
        leave()
      },
      (e: unknown) => setWrong({ field: (e instanceof EbbeError && e.field) || '', text: told(e) }),
    )
  }
  const text = (label: string, value: string, onText: (t: string) => void) => (
    <Field
      id={'line-' + label.replace(/\W+/g, '-')}
      label={label}
      value={value}
      autoComplete="off"
      maxLength={200}
      onChange={(e) => onText(e.target.value)}
    />
  )
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- Escape of any field in it
    <form
      aria-label={line ? sentences.changeTheLine : sentences.addALine}
      data-testid="line-form"
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault()
        save()
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation()
          leave()
        }
      }}
    >
      <h2 className="text-[16px] tracking-[-.01em]">{line ? line.name : sentences.addALine}</h2>
      <div className="grid grid-cols-2 gap-4 max-[700px]:grid-cols-1">
        <Field
          id="line-number"
          label={sentences.number}
          placeholder="+47 21 00 00 00"
          autoFocus={!line}
          inputMode="tel"
          autoComplete="off"
          value={v.number}
          wrong={at('number')}
          onChange={(e) => change({ number: e.target.value })}
        />
        <Field
          id="line-name"
          label={sentences.whatItIsCalled}
          placeholder={sentences.frontDesk}
          autoComplete="off"
          value={v.name}
          wrong={at('name')}
          maxLength={100}
          onChange={(e) => change({ name: e.target.value })}
        />
        <Field
          id="line-url"
          label={sentences.addressOfTheGateway}
          placeholder={sentences.aGateway}
          autoComplete="off"
          value={g.url}
          wrong={at('gateway')}
          onChange={(e) => gate({ url: e.target.value })}
        />
        <Field
          id="line-secret"
          label={sentences.secret}
          type="password"
          autoComplete="new-password"
          placeholder={line?.secret ? sentences.asItIs : ''}
          value={secret}
          wrong={at('secret')}
          onChange={(e) => {
            setSecret(e.target.value)
            setWrong(undefined)
          }}
        />
      </div>
      {line?.hook ? (
        <Hook path={line.hook} />
      ) : (
        <p className="text-[12.5px] text-ink-500">{sentences.itsAddressHere}</p>
      )}
      <Collapsible open={fields} onOpenChange={setFields} head={sentences.howItIsSpokenTo}>
        <div className="mt-2 grid grid-cols-3 gap-3 max-[700px]:grid-cols-1">
          <Select
            label={sentences.whatIsSent}
            value={g.kind}
            options={[
              { id: 'json' as const, name: 'JSON' },
              { id: 'form' as const, name: sentences.aForm },
            ]}
            onChange={(kind) => gate({ kind })}
          />
          <Select
            label={sentences.signingIn}
            value={g.auth}
            options={[
              { id: 'bearer' as const, name: sentences.byToken },
              { id: 'basic' as const, name: sentences.byNameAndPassword },
              { id: 'header' as const, name: sentences.byHeader },
            ]}
            onChange={(auth) => gate({ auth })}
          />
          {g.auth !== 'bearer' ? (
            text(g.auth === 'basic' ? sentences.signInName : sentences.nameOfTheHeader, g.login, (login) =>
              gate({ login }),
            )
          ) : (
            <span />
          )}
          {text(sentences.fieldTo, g.to, (to) => gate({ to }))}
          {text(sentences.fieldFrom, g.from, (from) => gate({ from }))}
          {text(sentences.fieldText, g.text, (t) => gate({ text: t }))}
          {text(sentences.fieldID, g.id, (id) => gate({ id }))}
          {text(sentences.fieldNotify, g.notify, (notify) => gate({ notify }))}
          <span />
          {text(sentences.inFrom, g.in.from, (from) => gate({ in: { ...g.in, from } }))}
          {text(sentences.inText, g.in.text, (t) => gate({ in: { ...g.in, text: t } }))}
          {text(sentences.inID, g.in.id, (id) => gate({ in: { ...g.in, id } }))}
          {text(sentences.inTo, g.in.to, (to) => gate({ in: { ...g.in, to } }))}
          {text(sentences.inAt, g.in.at, (t) => gate({ in: { ...g.in, at: t } }))}
          <span />
          {text(sentences.receiptState, g.receipt.state, (state) => gate({ receipt: { ...g.receipt, state } }))}
          {text(sentences.receiptID, g.receipt.id, (id) => gate({ receipt: { ...g.receipt, id } }))}
          {text(sentences.receiptWhy, g.receipt.why, (why) => gate({ receipt: { ...g.receipt, why } }))}
          {text(sentences.wordsDelivered, g.receipt.delivered.join(', '), (t) =>
            gate({ receipt: { ...g.receipt, delivered: words(t) } }),
          )}
          {text(sentences.wordsFailed, g.receipt.failed.join(', '), (t) =>
            gate({ receipt: { ...g.receipt, failed: words(t) } }),
          )}
          <span />
          {text(sentences.signHeader, g.sign.header, (header) => gate({ sign: { ...g.sign, header } }))}
          {text(sentences.signTime, g.sign.time, (time) => gate({ sign: { ...g.sign, time } }))}
          {text(sentences.signPrefix, g.sign.prefix, (prefix) => gate({ sign: { ...g.sign, prefix } }))}
          <Checkbox checked={g.sign.base64} onChange={(base64) => gate({ sign: { ...g.sign, base64 } })}>
            {sentences.signBase64}
          </Checkbox>
        </div>
        <p className="mt-2 text-[12.5px] text-ink-500">{sentences.dotsLeadInto}</p>
      </Collapsible>
      <div className="grid grid-cols-2 gap-4 max-[700px]:grid-cols-1">
        <Select
          label={sentences.answersByItself}
          value={v.answer.when}
          options={[
            { id: '' as const, name: sentences.never },
            { id: 'held' as const, name: sentences.whileHeld },
            { id: 'always' as const, name: sentences.toEveryText },
          ]}
          onChange={(when) => change({ answer: { ...v.answer, when } })}
        />
        <Field
          id="line-stops"
          label={sentences.furtherStops}
          placeholder={sentences.besidesStop}
          autoComplete="off"
          value={v.stops.join(', ')}
          onChange={(e) => change({ stops: e.target.value.split(/,\s?/) })}
        />
        {v.answer.when && (
          <TextArea
            id="line-answer"
            label={sentences.whatItSays}
            rows={2}
            maxLength={600}
            value={v.answer.text}
            onChange={(e) => change({ answer: { ...v.answer, text: e.target.value } })}
          />
        )}
        <TextArea
          id="line-stopped"
          label={sentences.whoStopsHears}
          rows={2}
          maxLength={600}
          value={v.stopped}
          onChange={(e) => change({ stopped: e.target.value })}
        />
      </div>
      <Checkbox checked={v.paused} onChange={(paused) => change({ paused })}>
        {sentences.pauseIt}
      </Checkbox>
      {wrong && !['number', 'name', 'gateway', 'secret'].includes(wrong.field) && <Notice>{wrong.text}</Notice>}
      <div className="flex gap-2">
        <Button type="submit">{sentences.save}</Button>
        <Button quiet onClick={leave}>
          {sentences.cancel}
        </Button>
        {line && (
          <Dialog
            title={sentences.removeTheLine}
            text={sentences.itsTextsStay}
            does={sentences.remove}
            onDo={() =>
              void post(`/lines/${line.id}/drop`).then(leave, (e: unknown) => setWrong({ field: '', text: told(e) }))
            }
          >
            <Button ground="late-quiet">{sentences.remove}</Button>
          </Dialog>
        )}
      </div>
    </form>
  )
}
