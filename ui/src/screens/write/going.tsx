import { Link } from 'react-router'
import { post, told } from '../../api/client'
import type { OutboxLine } from '../../api/desk'
import { refresh } from '../../api/queries'
import { long, now, plural } from '../../api/times'
import { Chip } from '../../kit/kit'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'

/** How far a message on its way out has come, in a word and a sentence. */
function standing(m: OutboxLine): { tone: 'plain' | 'tide' | 'late' | 'due'; word: string; text: string } {
  const some = m.more.filter((r) => r.state === 'sent').length
  switch (m.state) {
    case 'sending':
      return { tone: 'tide', word: 'going out', text: 'It is being handed over now.' }
    case 'hanging':
      return { tone: 'late', word: 'unknown', text: m.problem }
    case 'refused':
      return {
        tone: 'late',
        word: 'refused',
        text:
          m.problem ||
          m.more
            .filter((r) => r.text)
            .map((r) => `${r.address}: “${r.text}”`)
            .join(' '),
      }
    case 'kept':
      return { tone: 'due', word: 'no account', text: 'There was no account to send it with when it was written.' }
  }
  if (m.problem)
    return {
      tone: 'due',
      word: 'will retry',
      text: `${m.problem}${m.next > 0 ? ` It is tried again ${long(m.next)}.` : ''}${some ? ` ${some} of ${m.more.length} have it.` : ''}`,
    }
  return {
    tone: 'tide',
    word: 'scheduled',
    text: `It goes ${m.next > now() + 60_000 ? long(m.next) : 'in a moment'}${m.again ? `, and again ${m.again}` : ''}.`,
  }
}

/** Whether the user has to say what becomes of it. */
const stuck = (m: OutboxLine) => m.state === 'hanging' || m.state === 'refused'

/** A message on its way out: how it stands, taken back while it can be, settled where Ebbe cannot know. */
export function Going({ m, about }: { m: OutboxLine; about?: boolean }) {
  const desk = useDesk()
  const s = standing(m)
  const settle = (again: boolean) =>
    void post(`/outbox/${m.id}/settle`, { again })
      .then(() => refresh(['outbox', 'mail']))
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  const whom = (m.to.name || m.to.address) + (m.more.length > 1 ? ` and ${plural(m.more.length - 1, 'other')}` : '')
  return (
    <div
      data-testid="going"
      className={`rounded-[9px] border px-3 py-2 text-[13px] ${stuck(m) ? 'border-coral-600/40' : 'border-sand-200'}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-2.5 gap-y-1">
        <Chip tone={s.tone}>{s.word}</Chip>
        <b className="min-w-0 truncate">{whom}</b>
        <span className="ml-auto flex gap-3">
          {m.state === 'waiting' && m.again && !m.entry && (
            <TextButton small onClick={() => settle(false)}>
              Do not send it any more
            </TextButton>
          )}
          {m.state === 'waiting' && m.entry > 0 && (
            <TextButton small onClick={() => void desk.takeBack(m.entry)}>
              Take back
            </TextButton>
          )}
          {(m.state === 'refused' || m.state === 'kept') && (
            <TextButton small onClick={() => settle(true)}>
              Send it again
            </TextButton>
          )}
          {(m.state === 'refused' || m.state === 'kept') && (
            <TextButton small onClick={() => settle(false)}>
              Do not send it
            </TextButton>
          )}
          {m.state === 'hanging' && (
            <TextButton small onClick={() => settle(false)}>
              It has gone
            </TextButton>
          )}
          {m.state === 'hanging' && (
            <TextButton small onClick={() => settle(true)}>
              Send it again
            </TextButton>
          )}
        </span>
      </div>
      {about && (
        <p className="truncate">
          {m.conversation ? (
            <Link className="hover:underline" to={'/c/' + m.conversation}>
              {m.subject || 'Without a subject'}
            </Link>
          ) : (
            m.subject || 'Without a subject'
          )}
        </p>
      )}
      <p className={`mt-0.5 text-[12.5px] ${stuck(m) ? 'text-coral-600' : 'text-ink-500'}`}>
        {s.text}
        {m.state === 'hanging' && ' Ask them whether they have it before you send it again.'}
      </p>
    </div>
  )
}
