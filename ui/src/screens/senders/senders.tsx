import { NewspaperIcon, StarIcon, UserIcon } from '@phosphor-icons/react'
import { useInfiniteQuery } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { get } from '../../api/client'
import type { SenderView, Senders } from '../../api/desk'
import { digits } from '../../api/digits'
import { plural, short } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { DOCK, useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { FreshStartTray } from '../inbox/fresh'
import { DockKey, DockSide } from '../worktop/dock'
import { SnoozeTray } from '../worktop/snooze'
import { sentences } from './sentences'

const useSenders = () =>
  useInfiniteQuery({
    queryKey: ['senders'],
    queryFn: ({ pageParam }) => get<Senders>('/senders?after=' + encodeURIComponent(pageParam)),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
  })

type Tray = '' | 'snooze' | 'fresh'

/** Who fills the inbox: by number, each to be decided at once. */
export function Senders() {
  const list = useSenders()
  const desk = useDesk()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(() => fromAddress('at'))
  const [tray, setTray] = useState(() => fromAddress('tray') as Tray)
  const at = useRef(0)
  const scroll = useRef<HTMLDivElement>(null)
  const senders = useMemo(() => list.data?.pages.flatMap((p) => p.senders) ?? [], [list.data])
  const found = senders.findIndex((s) => s.address === chosen)
  const index = found >= 0 ? found : Math.min(at.current, senders.length - 1)
  const current = senders[index] as SenderView | undefined
  useEffect(() => {
    if (index >= 0) at.current = index
  }, [index])
  useInAddress({ at: current?.address ?? '', tray }, (was) => {
    setChosen(was('at'))
    setTray(was('tray') as Tray)
  })
  const rows = useVirtualizer({
    count: senders.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => 46,
    overscan: 8,
  })
  const items = rows.getVirtualItems()
  const last = items.at(-1)?.index ?? 0
  const { hasNextPage, isFetching, fetchNextPage } = list
  useEffect(() => {
    if (senders.length && last >= senders.length - 20 && hasNextPage && !isFetching) void fetchNextPage()
  }, [last, senders.length, hasNextPage, isFetching, fetchNextPage])
  const go = (s?: SenderView) => {
    if (!s) return
    setChosen(s.address)
    rows.scrollToIndex(senders.indexOf(s))
  }
  const decide = (d: { kind: string } & Record<string, unknown>) => {
    if (!current) return
    setTray('')
    setChosen((senders[index + 1] ?? senders[index - 1])?.address ?? '')
    void desk.decide({ ...d, where: { from: current.address } })
  }
  const turn = (t: Tray) => setTray(tray === t ? '' : t)
  useCommands([
    { id: 'next', run: () => go(senders[index + 1]) },
    { id: 'previous', run: () => go(senders[index - 1]) },
    { id: 'first', run: () => go(senders[0]) },
    { id: 'last', run: () => go(senders.at(-1)) },
    { id: 'back', run: () => void navigate('/') },
    { id: 'fresh-start', run: () => turn('fresh') },
    ...(current
      ? [
          {
            id: 'open',
            name: sentences.seeWhatIsFrom,
            run: () => void navigate('/?from=' + encodeURIComponent(current.address)),
          },
          { id: 'bin', name: sentences.binAllFromThis, run: () => decide({ kind: 'bin' }) },
          { id: 'archive', name: sentences.archiveAllFromThis, run: () => decide({ kind: 'archive' }) },
          { id: 'snooze', name: sentences.snoozeAllFromThis, run: () => turn('snooze') },
        ]
      : []),
  ])
  useCommands(tray ? [{ id: 'close-tray', keys: ['Escape'], run: () => setTray(''), hidden: true }] : [], DOCK)
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loadingTheSenders} />
  const left = list.data.pages[0].left
  const most = senders[0]?.count ?? 1
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="flex flex-wrap items-end justify-between gap-3 bg-sand-0 px-[22px] pt-4 pb-3 max-[700px]:px-4">
        <div>
          <Heading>{sentences.senders}</Heading>
          <p className="text-ink-500">{sentences.whoHasHowMuch}</p>
        </div>
        <Button quiet onClick={() => turn('fresh')}>
          {sentences.freshStart}
        </Button>
      </div>
      <div ref={scroll} className="min-h-0 overflow-y-auto bg-sand-0 px-[22px] max-[700px]:px-2" data-testid="senders">
        {!senders.length && <Empty title={sentences.nobodyWaitsForA}>{sentences.whoHasSomethingIn}</Empty>}
        {senders.length > 0 && (
          <div
            className={cx(
              'sticky top-0 z-10 grid grid-cols-[minmax(0,1.6fr)_minmax(0,1.2fr)_64px_90px_90px] gap-3',
              'border-b-2 border-ink-900 bg-sand-0 px-3 pb-1 text-[11.5px] font-[650] text-ink-500',
              'max-[700px]:grid-cols-[minmax(0,1fr)_90px_44px]',
            )}
            aria-hidden
          >
            <span>{sentences.sender}</span>
            <span className="truncate">{sentences.shareOfTheInbox}</span>
            <span className="text-right">{sentences.unread}</span>
            <span className="max-[700px]:hidden">{sentences.newest}</span>
            <span className="max-[700px]:hidden">{sentences.youWrote}</span>
          </div>
        )}
        <div
          role="listbox"
          aria-label={sentences.senders}
          tabIndex={0}
          aria-activedescendant={items.some((i) => i.index === index) ? 'sender-' + index : undefined}
          className="relative outline-offset-[-2px]"
          style={{ height: rows.getTotalSize() }}
        >
          {items.map((item) => {
            const s = senders[item.index]
            const share = left ? Math.round((100 * s.count) / left) : 0
            return (
              // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus -- the list has both
              <div
                key={s.address}
                id={'sender-' + item.index}
                role="option"
                aria-selected={item.index === index}
                onClick={() => setChosen(s.address)}
                onDoubleClick={() => void navigate('/?from=' + encodeURIComponent(s.address))}
                className={cx(
                  'absolute inset-x-0 grid h-[46px] cursor-default',
                  'grid-cols-[minmax(0,1.6fr)_minmax(0,1.2fr)_64px_90px_90px] items-center gap-3 border-b',
                  'border-sand-200 px-3 max-[700px]:grid-cols-[minmax(0,1fr)_90px_44px]',
                  item.index === index ? 'bg-tide-50 shadow-[inset_4px_0_0_var(--fill)]' : 'hover:bg-sand-50',
                )}
                style={{ transform: `translateY(${item.start}px)` }}
              >
                <span className="flex min-w-0 items-center gap-2">
                  {s.person ? (
                    <UserIcon size={16} className="shrink-0 text-ink-500" aria-label={sentences.aPerson} />
                  ) : (
                    <NewspaperIcon size={16} className="shrink-0 text-ink-500" aria-label={sentences.aListOrA} />
                  )}
                  <span className="min-w-0">
                    <b className="block truncate leading-tight">{s.name || s.address}</b>
                    <span className="block truncate text-[11.5px] text-ink-500">
                      {s.name ? s.address : s.person ? sentences.aPerson : sentences.aListOrA}
                    </span>
                  </span>
                  {s.starred > 0 && (
                    <span className="flex shrink-0 items-center gap-0.5 text-[11.5px] text-accent">
                      <StarIcon size={12} weight="fill" aria-hidden />
                      {s.starred}
                    </span>
                  )}
                </span>
                <span className="flex items-center gap-2">
                  <b className="w-9 text-right tabular-nums">{digits(s.count)}</b>
                  <span className="h-2.5 flex-1">
                    <span
                      className="block h-full min-w-[2px] rounded-[3px] bg-tide-400"
                      style={{ width: `${(100 * s.count) / most}%` }}
                    />
                  </span>
                  <span className="w-8 text-right text-[11.5px] text-ink-500 max-[700px]:hidden">{share} %</span>
                </span>
                <span className="text-right tabular-nums">
                  {s.unread || ''}
                  {s.unread > 0 && <span className="sr-only"> {sentences.unreadShort}</span>}
                </span>
                <span className="text-[12.5px] text-ink-500 max-[700px]:hidden">{short(s.newest)}</span>
                <span className="text-[12.5px] text-ink-500 max-[700px]:hidden">
                  {s.answeredAt ? short(s.answeredAt) : sentences.never}
                </span>
              </div>
            )
          })}
        </div>
      </div>
      <DecisionBar>
        {tray === 'snooze' && current && (
          <SnoozeTray
            many={current.count}
            onSnooze={(s) => decide({ kind: 'snooze', ...s })}
            onClose={() => setTray('')}
          />
        )}
        {tray === 'fresh' && <FreshStartTray onClose={() => setTray('')} />}
        <BarKeys
          side={
            <DockSide
              position={
                senders.length > 0 &&
                sentences.left(
                  plural(senders.length, sentences.senderShort),
                  hasNextPage ? sentences.orMore : '',
                  digits(left),
                )
              }
            />
          }
        >
          <DockKey id="bin" disabled={!current} onClick={() => decide({ kind: 'bin' })}>
            {sentences.bin} {current?.count}
          </DockKey>
          <DockKey id="archive" disabled={!current} onClick={() => decide({ kind: 'archive' })}>
            {sentences.archive} {current?.count}
          </DockKey>
          <DockKey id="snooze" disabled={!current} on={tray === 'snooze'} onClick={() => turn('snooze')}>
            {sentences.snooze} {current?.count}
          </DockKey>
          <DockKey
            id="open"
            disabled={!current}
            onClick={() => current && void navigate('/?from=' + encodeURIComponent(current.address))}
          >
            {sentences.seeThem}
          </DockKey>
        </BarKeys>
      </DecisionBar>
    </div>
  )
}
