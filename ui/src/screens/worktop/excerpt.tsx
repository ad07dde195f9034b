import type { FoundAt } from '../../api/desk'
import type { Piece } from '../../api/gen/search'
import { sentences } from './sentences.trays'

/** A part of a text, with what was looked for marked. */
export const Pieces = ({ pieces }: { pieces: Piece[] }) =>
  pieces.map((p, i) =>
    p.marked ? (
      <mark key={i} className="rounded-[3px] bg-amber-100 px-0.5 text-ink-900">
        {p.text}
      </mark>
    ) : (
      <span key={i}>{p.text}</span>
    ),
  )

/** Where in a conversation the words were found, for its slip. */
export const Excerpt = ({ at }: { at: FoundAt }) => (
  <span className="min-w-0 flex-1 truncate text-[12px]" data-excerpt={at.kind}>
    {at.kind === 'file' && (
      <>
        {sentences.inFile} <b>{at.title}</b>
        {at.page ? sentences.onPage(at.page) : ''}
        {': '}
      </>
    )}
    {at.kind === 'name' && sentences.inYourNote}
    {at.kind === 'comment' && sentences.inComment}
    {at.kind === 'follow-up' && (
      <>
        {sentences.inFollowUp} <b>{at.title}</b>
        {': '}
      </>
    )}
    {at.kind === 'event' && (
      <>
        {sentences.inEvent} <b>{at.title}</b>
        {': '}
      </>
    )}
    <Pieces pieces={at.excerpt} />
  </span>
)
