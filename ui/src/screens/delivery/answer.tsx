import { useState } from 'react'
import type { OutboxLine } from '../../api/gen/composing'
import type { Plan } from '../../api/gen/delivery'
import { useHeard } from '../../api/queries'
import { short } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { Collapsible } from '../../kit/collapsible'
import { Field, TextArea } from '../../kit/field'
import { AwayBox } from '../../frame/gatetrays'
import { sentences } from './sentences'

const blanks = [sentences.nextDelivery, 'contact', 'name']

/** What senders hear while mail is held, once each. */
export function Answer({ plan, edit }: { plan: Plan; edit: (p: Partial<Plan>) => void }) {
  const [open, setOpen] = useState(false)
  return (
    <section aria-labelledby="answer">
      <h2 id="answer" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
        {sentences.automaticReplyOncePer}
      </h2>
      <AwayBox checked={plan.away} onChange={(away) => edit({ away })} />
      {!open ? (
        <p className="text-ink-700">
          {plan.answer ? `“${plan.answer}”` : sentences.nothingMailWaitsWithout}{' '}
          <Button size="small" ground="quiet" onClick={() => setOpen(true)}>
            {sentences.edit}
          </Button>
        </p>
      ) : (
        <div>
          <TextArea
            label={sentences.whatSendersHear}
            hideLabel
            rows={3}
            autoFocus
            maxLength={1900}
            value={plan.answer}
            placeholder={sentences.iReadMailNext}
            onChange={(e) => edit({ answer: e.target.value })}
          />
          <div className="mt-1.5 flex flex-wrap items-center gap-1.5 text-[12px]">
            <span className="text-ink-500">{sentences.blanks}</span>
            {blanks.map((b) => (
              <Button
                size="small"
                ground="quiet"
                key={b}
                onClick={() =>
                  edit({ answer: `${plan.answer}${plan.answer && !plan.answer.endsWith(' ') ? ' ' : ''}[${b}]` })
                }
              >
                [{b}]
              </Button>
            ))}
            <Field
              small
              className="ml-2 flex w-52 items-baseline gap-1.5"
              label={sentences.contact}
              value={plan.contact}
              maxLength={55}
              onChange={(e) => edit({ contact: e.target.value })}
            />
          </div>
          <p className="mt-1.5 text-[12px] text-ink-500">{sentences.onlyPeopleWhoWrite}</p>
        </div>
      )}
    </section>
  )
}

/** Who heard what, by itself. */
export function Heard() {
  const { data, hasNextPage, fetchNextPage } = useHeard()
  const [all, setAll] = useState(false)
  const messages = data?.pages.flatMap((p) => p.messages) ?? []
  if (!messages.length) return null
  const shown = all ? messages : messages.slice(0, 3)
  return (
    <section aria-labelledby="heard" className="mt-4" data-testid="heard">
      <h2 id="heard" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
        {sentences.automaticRepliesSent}
      </h2>
      <ul>
        {shown.map((m) => (
          <HeardLine key={m.id} m={m} />
        ))}
      </ul>
      <p className="mt-1 text-[12px] text-ink-500">
        {(messages.length > shown.length || (all && hasNextPage)) && (
          <TextButton
            className="ml-1"
            onClick={() => {
              if (all) void fetchNextPage()
              setAll(true)
            }}
          >
            {sentences.showMore}
          </TextButton>
        )}
      </p>
    </section>
  )
}

function HeardLine({ m }: { m: OutboxLine }) {
  const [open, setOpen] = useState(false)
  return (
    <li className="border-t border-sand-200">
      <Collapsible
        open={open}
        onOpenChange={setOpen}
        className="py-1"
        headClass="gap-2 text-[12.5px]"
        head={
          <>
            <b className="max-w-[45%] shrink-0 truncate">{m.to.name || m.to.address}</b>
            <span className="min-w-0 flex-1 truncate text-ink-500">{m.subject}</span>
            <span className="text-[12px] text-ink-500">{m.state === 'sent' ? short(m.at) : sentences.notGoneYet}</span>
          </>
        }
      >
        <p className="py-1 whitespace-pre-wrap text-ink-700">{m.text}</p>
      </Collapsible>
    </li>
  )
}
