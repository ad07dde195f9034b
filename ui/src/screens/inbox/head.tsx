import { ArmchairIcon, RowsIcon, SlidersHorizontalIcon, UsersThreeIcon } from '@phosphor-icons/react'
import { memo } from 'react'
import { Link } from 'react-router'
import { digits } from '../../api/digits'
import { useCommands, useKey } from '../../frame/commands'
import { setClose, useClose } from '../../frame/density'
import { BarButton, barLook, IconButton, TextButton } from '../../kit/button'
import type { Tray } from '../worktop/deciding'
import { sentences } from './sentences'

interface Props {
  words: string // how it is arranged
  grouped: string // by what the groups that are shown are made
  filter: string // what it is filtered by, if it is
  shown: number // how many that leaves; 0 without one
  tray: Tray
  open: (tray: Tray) => void
  onShowAll: () => void
}

/** The line above the queue: how it is arranged, the senders, and the way into a sitting. */
export const QueueHead = memo(function QueueHead({ words, grouped, filter, shown, tray, open, onShowAll }: Props) {
  const turn = (t: Tray) => open(tray === t ? '' : t)
  useCommands([
    { id: 'arrange', run: () => turn('arrange') },
    { id: 'sit', run: () => turn('sit') },
    { id: 'fresh-start', run: () => turn('fresh-start') },
    { id: 'keep-list', run: () => turn('list') },
  ])
  const sit = useKey('sit')
  const lines = useKey('close-lines')
  const close = useClose()
  return (
    <div className="border-b border-sand-200 px-2 py-1" data-grouped={grouped}>
      <div className="flex items-center gap-0.5">
        <BarButton on={tray === 'arrange'} className="min-w-0" onClick={() => turn('arrange')}>
          <SlidersHorizontalIcon size={14} className="shrink-0" aria-hidden />
          <span className="truncate">{words}</span>
        </BarButton>
        <span className="flex-1" />
        <IconButton
          label={`${close ? sentences.roomyLines : sentences.closeLines} (${lines})`}
          aria-pressed={close}
          onClick={() => setClose(!close)}
        >
          <RowsIcon size={14} aria-hidden />
        </IconButton>
        <Link to="/senders" className={barLook}>
          <UsersThreeIcon size={14} aria-hidden />
          {sentences.senders}
        </Link>
        <BarButton accent on={tray === 'sit'} aria-keyshortcuts={sit} onClick={() => turn('sit')}>
          <ArmchairIcon size={15} aria-hidden />
          {sentences.sit}
        </BarButton>
      </div>
      {filter && (
        <p className="flex items-center gap-2 px-1.5 pb-1 text-[12px] text-ink-500" data-testid="filtered">
          <span className="min-w-0 truncate">{sentences.only(filter, digits(shown))}</span>
          <TextButton className="shrink-0" onClick={onShowAll}>
            {sentences.showAll}
          </TextButton>
        </p>
      )}
    </div>
  )
})
