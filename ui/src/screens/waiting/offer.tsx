import { Link } from 'react-router'
import type { Candidate } from '../../api/gen/followup'
import { long } from '../../api/times'
import { useCommands, useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Key } from '../../kit/kit'
import { sentences } from './sentences'

/**
 * Asks whether a message is the answer somebody waits for: one key says yes, one no. Where several are asked about, the
 * keys are for the one that listens.
 */
export function IsIt({
  uid,
  offer,
  title,
  listens,
}: {
  uid: string
  offer: Candidate
  title?: string
  listens: boolean
}) {
  const { step } = useDesk()
  const yes = useKey('is-answer')
  const no = useKey('no-answer')
  const say = (kind: string) => void step(uid, { kind, message: offer.message, seen: 'open' })
  useCommands(
    listens
      ? [
          { id: 'is-answer', run: () => say('is-answer') },
          { id: 'no-answer', run: () => say('no-answer') },
        ]
      : [],
  )
  const who = offer.from.name || offer.from.address
  return (
    <div
      role="group"
      aria-label={sentences.isItTheAnswer}
      data-testid="offer"
      className="flex flex-wrap items-center gap-x-3 gap-y-1.5 rounded-[9px] bg-plum-100 px-3 py-1.5 text-[12.5px] text-plum-600"
    >
      <span className="min-w-0 flex-1 basis-56 break-words">
        {title ? (
          sentences.maybeTheAnswerTo(title)
        ) : (
          <>
            <Link to={'/c/' + offer.conversation} className="underline">
              {sentences.wrote(who, long(offer.at))}
            </Link>{' '}
            {sentences.isThisWhatYou}
          </>
        )}
      </span>
      <span className="flex gap-1.5">
        <Button
          size="small"
          ground="line"
          aria-keyshortcuts={listens ? yes : undefined}
          onClick={() => say('is-answer')}
        >
          {listens && (
            <span className="max-[700px]:hidden">
              <Key>{yes}</Key>
            </span>
          )}
          {sentences.yes}
        </Button>
        <Button
          size="small"
          ground="line"
          aria-keyshortcuts={listens ? no : undefined}
          onClick={() => say('no-answer')}
        >
          {listens && (
            <span className="max-[700px]:hidden">
              <Key>{no}</Key>
            </span>
          )}
          {sentences.no}
        </Button>
      </span>
    </div>
  )
}
