import { useState } from 'react'
import type { Plan } from '../../api/gen/delivery'
import { useHeard } from '../../api/queries'
import { short } from '../../api/times'

const blanks = ['next delivery', 'contact', 'name']

/** What senders hear while mail is held, once each. */
export function Answer({ plan, edit }: { plan: Plan; edit: (p: Partial<Plan>) => void }) {
  const [open, setOpen] = useState(false)
  return (
    <section aria-labelledby="answer">
      <h2 id="answer" className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
        Automatic reply, once per hold
      </h2>
      {!open ? (
        <p className="text-ink-700">
          {plan.answer ? `“${plan.answer}”` : 'Nothing: mail waits without a word.'}{' '}
          <button
            type="button"
            className="rounded-[5px] bg-sand-100 px-2 py-px text-[12px] font-[550] hover:bg-tide-100"
            onClick={() => setOpen(true)}
          >
            edit
          </button>
        </p>
      ) : (
        <div>
          <textarea
            aria-label="What senders hear"
            rows={3}
            autoFocus
            maxLength={1900}
            value={plan.answer}
            placeholder="I read mail next [next delivery]. If it cannot wait: [contact]."
            onChange={(e) => edit({ answer: e.target.value })}
            className="block w-full rounded-[9px] border border-sand-300 bg-sand-0 px-3 py-2 text-[13.5px] focus:border-fill focus:outline-1 focus:outline-fill"
          />
          <div className="mt-1.5 flex flex-wrap items-center gap-1.5 text-[12px]">
            <span className="text-ink-500">Blanks:</span>
            {blanks.map((b) => (
              <button
                type="button"
                key={b}
                className="rounded-[5px] bg-sand-100 px-1.5 py-px hover:bg-tide-100"
                onClick={() =>
                  edit({ answer: `${plan.answer}${plan.answer && !plan.answer.endsWith(' ') ? ' ' : ''}[${b}]` })
                }
              >
                [{b}]
              </button>
            ))}
            <label className="ml-2 text-ink-500">
              contact is{' '}
              <input
                value={plan.contact}
                maxLength={55}
                onChange={(e) => edit({ contact: e.target.value })}
                className="w-36 rounded-[6px] border border-sand-300 bg-sand-0 px-1.5 py-px text-ink-900"
              />
            </label>
          </div>
          <p className="mt-1.5 text-[12px] text-ink-500">
            Only people who write to you by name hear it; never lists, machines, or other automatic answers.
          </p>
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
        Automatic replies sent
      </h2>
      <ul>
        {shown.map((m) => (
          <li key={m.id} className="border-t border-sand-200">
            <details className="py-1">
              <summary className="flex cursor-pointer items-baseline gap-2 text-[12.5px]">
                <b className="max-w-[45%] shrink-0 truncate">{m.to.name || m.to.address}</b>
                <span className="min-w-0 flex-1 truncate text-ink-500">{m.subject}</span>
                <span className="text-[12px] text-ink-500">{m.state === 'sent' ? short(m.at) : 'not gone yet'}</span>
              </summary>
              <p className="py-1 whitespace-pre-wrap text-ink-700">{m.text}</p>
            </details>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-[12px] text-ink-500">
        {(messages.length > shown.length || (all && hasNextPage)) && (
          <button
            type="button"
            className="ml-1 text-accent underline"
            onClick={() => {
              if (all) void fetchNextPage()
              setAll(true)
            }}
          >
            show more
          </button>
        )}
      </p>
    </section>
  )
}
