import { Link } from 'react-router'
import type { ConversationView } from '../../api/desk'
import { due, month } from '../../api/times'
import { TextButton } from '../../kit/button'
import { Chip, Waves } from '../../kit/kit'
import { Importance } from './importance'
import { Whose } from './number'
import { sentences } from './sentences.trays'
import { useLetThrough } from './through'
import { dueChip, whySentence } from './why'

/** Beside a conversation: what has gone back and forth with whoever wrote it, and what is open. */
export function Between({ view }: { view: ConversationView }) {
  const b = view.between!
  const letThrough = useLetThrough()
  const open = [...view.followUps, ...b.followUps.filter((f) => !view.followUps.some((o) => o.uid === f.uid))]
  return (
    <>
      <h2 className="text-[15px] tracking-[-.01em] break-words">
        <Link to={'/person/' + encodeURIComponent(b.address)} className="hover:underline">
          {b.name || b.address}
        </Link>
      </h2>
      <p className="mb-3 text-ink-500">
        {b.name && b.name !== b.number?.says && (
          <span className="block truncate" title={b.number?.says ?? b.address}>
            {b.number?.says ?? b.address}
          </span>
        )}
        {b.along.map((a) => (
          <span key={a} className="block truncate">
            {a}
          </span>
        ))}
        {b.since > 0 && sentences.since(month(b.since))}
      </p>
      {b.number && <Whose key={b.address + b.number.name} number={b.number} />}
      <div className="mb-3.5 grid grid-cols-2 gap-2">
        <Tally n={b.received} what={sentences.fromThem} />
        <Tally n={b.sent} what={sentences.fromYou} />
      </div>
      <h3 className="mt-3 mb-1 text-[11.5px] text-ink-500">{sentences.openBetweenYou}</h3>
      {open.length === 0 && <p className="text-ink-500">{sentences.nothingAFollowUp}</p>}
      <ul>
        {open.map((f) => (
          <li key={f.uid} className="border-t border-sand-200">
            <Link
              to={'/follow-ups/' + encodeURIComponent(f.uid)}
              className="flex items-center justify-between gap-1.5 py-[5px] hover:underline"
            >
              <span className="flex min-w-0 items-center gap-1.5">
                <Waves priority={f.priority} />
                <span className="truncate">{f.title}</span>
              </span>
              {f.due.at > 0 && (
                <Chip tone={dueChip(f.due).tone}>{dueChip(f.due).tone === 'late' ? sentences.late : due(f.due)}</Chip>
              )}
            </Link>
          </li>
        ))}
      </ul>
      <h3 className="mt-3 mb-1 text-[11.5px] text-ink-500">{sentences.whyItIsHere}</h3>
      <p className="text-ink-500">{whySentence(view.slip)}</p>
      <Importance slip={view.slip} />
      <TextButton className="mt-3" onClick={() => letThrough(b.address, b.name || b.address)}>
        {sentences.letThemThroughWhatever}
      </TextButton>
    </>
  )
}

const Tally = ({ n, what }: { n: number; what: string }) => (
  <div className="rounded-[10px] bg-sand-100 px-2.5 py-2">
    <b className="block text-[20px] leading-[1.15] tracking-[-.02em]">{n}</b>
    {what}
  </div>
)
