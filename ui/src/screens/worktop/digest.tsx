import { ArchiveIcon, TrashIcon } from '@phosphor-icons/react'
import type { CSSProperties } from 'react'
import { useNavigate } from 'react-router'
import type { Slip } from '../../api/desk'
import { useSlip } from '../../api/slips'
import { long, short } from '../../api/times'
import { useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { useLetters } from '../../frame/letters'
import { Button, IconButton, TextButton } from '../../kit/button'
import { LineButton } from '../../kit/pieces'
import { sentences } from './sentences.trays'
import { throughDigest } from './through'

interface Props {
  slip: Slip
  show: (id: number) => void
  back: () => void
  onAway: (ids: number[]) => void
}

const SHOWN = 200 // lines; the rest is gone through one by one

/** What came together, in lines: each is opened or decided from there, the rest by one key. */
export function Digest({ slip, show, back, onAway }: Props) {
  const desk = useDesk()
  const letters = useLetters()
  const archive = useKey('archive')
  const open = useKey('open')
  const navigate = useNavigate()
  const ids = slip.of!
  return (
    <section
      aria-label={sentences.together}
      className="apart reading-column col-span-2 min-h-0 overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-8 max-[1060px]:col-span-1 max-[700px]:px-4"
      style={{ '--letters': letters } as CSSProperties}
      tabIndex={-1}
      data-testid="digest"
    >
      <div className="max-w-3xl">
        <TextButton className="mb-2 min-[701px]:hidden" onClick={back}>
          {sentences.inbox}
        </TextButton>
        <h1 className="text-[22px] leading-[1.2] font-[650] tracking-[-.02em] break-words">{slip.from}</h1>
        <p className="mt-1 mb-3 text-ink-500">{sentences.cameTogether(ids.length, long(slip.lastAt))}</p>
        <div className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1.5">
          <Button
            size="middle"
            aria-keyshortcuts={archive}
            onClick={() => {
              onAway([slip.id, ...ids])
              void desk.decide({ kind: 'archive', conversations: ids, seen: 'inbox' }, true)
            }}
          >
            {sentences.archiveThese(ids.length)}
            <Press keys={archive} />
          </Button>
          <Button
            quiet
            size="middle"
            aria-keyshortcuts={open}
            onClick={() => void navigate(throughDigest(slip.stream!))}
          >
            {sentences.goThrough}
            <Press keys={open} />
          </Button>
        </div>
        <ul className="border-t border-sand-200">
          {ids.slice(0, SHOWN).map((id) => (
            <Line key={id} id={id} show={show} onAway={onAway} />
          ))}
        </ul>
        {ids.length > SHOWN && <p className="mt-2 text-ink-500">{sentences.andMoreBelow(ids.length - SHOWN)}</p>}
      </div>
    </section>
  )
}

/** The key that does it, where there are keys. */
const Press = ({ keys }: { keys: string }) => <span className="font-normal max-[700px]:hidden"> {keys}</span>

function Line({ id, show, onAway }: { id: number; show: (id: number) => void; onAway: (ids: number[]) => void }) {
  const slip = useSlip(id)
  const desk = useDesk()
  const decide = (kind: string) => {
    onAway([id])
    void desk.decide({ kind, conversations: [id], seen: 'inbox' }, true)
  }
  if (!slip) return <li className="h-[53px] border-b border-sand-200" />
  const subject = slip.title || slip.subject
  return (
    <li className="flex items-center gap-1 border-b border-sand-200" data-line={id}>
      <LineButton row className="min-w-0 flex-1 gap-2.5 px-1 py-1.5" onClick={() => show(id)}>
        <span className="min-w-0 flex-1">
          <span className="flex gap-2">
            <b className={`min-w-0 truncate ${slip.unread ? '' : 'font-medium'}`}>{subject}</b>
            <span className="max-w-[42%] shrink-0 truncate text-ink-500">{slip.from}</span>
          </span>
          <span className="block truncate text-[12.5px] text-ink-500">{slip.begins}</span>
        </span>
        <span className="shrink-0 text-[12px] text-ink-500">{short(slip.lastAt)}</span>
      </LineButton>
      <IconButton label={sentences.archiveLine(subject)} tip={sentences.archive} onClick={() => decide('archive')}>
        <ArchiveIcon size={15} aria-hidden />
      </IconButton>
      <IconButton label={sentences.binLine(subject)} tip={sentences.bin} onClick={() => decide('bin')}>
        <TrashIcon size={15} aria-hidden />
      </IconButton>
    </li>
  )
}
