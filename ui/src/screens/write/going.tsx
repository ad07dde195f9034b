import { Link } from 'react-router'
import { post, told } from '../../api/client'
import type { OutboxLine } from '../../api/desk'
import { refresh } from '../../api/queries'
import { long, now, plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { Chip } from '../../kit/kit'
import { sentences } from './sentences.writer'

/** How far a message on its way out has come, in a word and a sentence. */
function standing(m: OutboxLine): { tone: 'plain' | 'tide' | 'late' | 'due'; word: string; text: string } {
  const some = m.more.filter((r) => r.state === 'sent').length
  switch (m.state) {
    case 'sending':
      return { tone: 'tide', word: sentences.goingOut, text: sentences.itIsBeingHanded }
    case 'hanging':
      return { tone: 'late', word: sentences.unknown, text: m.problem }
    case 'refused':
      return {
        tone: 'late',
        word: sentences.refused,
        text:
          m.problem ||
          m.more
            .filter((r) => r.text)
            .map((r) => `${r.address}: “${r.text}”`)
            .join(' '),
      }
    case 'kept':
      return { tone: 'due', word: sentences.noAccount, text: sentences.thereWasNoAccount }
  }
  if (m.problem)
    return {
      tone: 'due',
      word: sentences.willRetry,
      text: `${m.problem}${m.next > 0 ? sentences.itIsTriedAgain(long(m.next)) : ''}${some ? sentences.ofHaveIt(some, m.more.length) : ''}`,
    }
  return {
    tone: 'tide',
    word: sentences.scheduled,
    text: sentences.itGoesAgain(
      m.next > now() + 60_000 ? long(m.next) : sentences.inAMoment,
      m.again ? sentences.andAgain(m.again) : '',
    ),
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
  const whom =
    (m.to.name || m.to.address) + (m.more.length > 1 ? sentences.and(plural(m.more.length - 1, sentences.other)) : '')
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
              {sentences.doNotSendIt}
            </TextButton>
          )}
          {m.state === 'waiting' && m.entry > 0 && (
            <TextButton small onClick={() => void desk.takeBack(m.entry)}>
              {sentences.takeBack}
            </TextButton>
          )}
          {(m.state === 'refused' || m.state === 'kept') && (
            <TextButton small onClick={() => settle(true)}>
              {sentences.sendItAgain}
            </TextButton>
          )}
          {(m.state === 'refused' || m.state === 'kept') && (
            <TextButton small onClick={() => settle(false)}>
              {sentences.doNotSendItTitle}
            </TextButton>
          )}
          {m.state === 'hanging' && (
            <TextButton small onClick={() => settle(false)}>
              {sentences.itHasGone}
            </TextButton>
          )}
          {m.state === 'hanging' && (
            <TextButton small onClick={() => settle(true)}>
              {sentences.sendItAgain}
            </TextButton>
          )}
        </span>
      </div>
      {about && (
        <p className="truncate">
          {m.conversation ? (
            <Link className="hover:underline" to={'/c/' + m.conversation}>
              {m.subject || sentences.withoutASubject}
            </Link>
          ) : (
            m.subject || sentences.withoutASubject
          )}
        </p>
      )}
      <p className={`mt-0.5 text-[12.5px] ${stuck(m) ? 'text-coral-600' : 'text-ink-500'}`}>
        {s.text}
        {m.state === 'hanging' && sentences.askThemWhetherThey}
      </p>
    </div>
  )
}
