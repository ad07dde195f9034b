import { Link } from 'react-router'
import { ArmchairIcon, SlidersHorizontalIcon, UsersThreeIcon } from '@phosphor-icons/react'
import { useCommands, useKey } from '../../frame/commands'
import type { Tray } from '../worktop/dock'

interface Props {
  words: string // how it is arranged
  grouped: string // by what the groups that are shown are made
  filter: string // what it is filtered by, if it is
  shown: number
  tray: Tray
  open: (tray: Tray) => void
  onShowAll: () => void
}

const tool = 'flex items-center gap-1 rounded-[7px] px-1.5 py-1 text-[12px] font-semibold hover:bg-sand-200'

/** The line above the queue: how it is arranged, the senders, and the way into a sitting. */
export function QueueHead({ words, grouped, filter, shown, tray, open, onShowAll }: Props) {
  const turn = (t: Tray) => open(tray === t ? '' : t)
  useCommands([
    { id: 'arrange', run: () => turn('arrange') },
    { id: 'sit', run: () => turn('sit') },
    { id: 'fresh-start', run: () => turn('fresh-start') },
    { id: 'keep-list', run: () => turn('list') },
  ])
  const sit = useKey('sit')
  return (
    <div className="border-b border-sand-200 px-2 py-1" data-grouped={grouped}>
      <div className="flex items-center gap-0.5">
        <button
          type="button"
          className={tool + ' min-w-0 text-ink-700'}
          aria-pressed={tray === 'arrange'}
          onClick={() => turn('arrange')}
        >
          <SlidersHorizontalIcon size={14} className="shrink-0" aria-hidden />
          <span className="truncate">{words}</span>
        </button>
        <span className="flex-1" />
        <Link to="/senders" className={tool + ' text-ink-700'}>
          <UsersThreeIcon size={14} aria-hidden />
          Senders
        </Link>
        <button
          type="button"
          className={tool + ' text-accent'}
          aria-pressed={tray === 'sit'}
          aria-keyshortcuts={sit}
          onClick={() => turn('sit')}
        >
          <ArmchairIcon size={15} aria-hidden />
          Sit
        </button>
      </div>
      {filter && (
        <p className="flex items-center gap-2 px-1.5 pb-1 text-[12px] text-ink-500" data-testid="filtered">
          <span className="min-w-0 truncate">
            Only {filter}: {shown.toLocaleString('en-GB')}
          </span>
          <button type="button" className="font-semibold whitespace-nowrap text-accent" onClick={onShowAll}>
            Show all
          </button>
        </p>
      )}
    </div>
  )
}
