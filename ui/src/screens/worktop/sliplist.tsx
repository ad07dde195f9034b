import {
  CaretDownIcon,
  CaretRightIcon,
  CheckIcon,
  NotePencilIcon,
  PaperclipIcon,
  PencilSimpleLineIcon,
  StarIcon,
} from '@phosphor-icons/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, type ReactNode, Suspense, useCallback, useContext, useEffect, useMemo, useRef } from 'react'
import type { Slip } from '../../api/desk'
import { digits } from '../../api/digits'
import { afterPaint } from '../../api/paint'
import { useDeliveryState } from '../../api/queries'
import { useSlip } from '../../api/slips'
import { plural, short } from '../../api/times'
import { Opener, TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { FULL, Gauge } from '../../kit/gauge'
import { useArrival } from '../../kit/heading'
import { Chip } from '../../kit/kit'
import { LabelChip } from '../../kit/label'
import { type Swipe, swipeAt, useTouch } from '../../kit/touch'
import { FindingContext } from './found'
import { sentences } from './sentences'
import { Excerpt } from './trays'
import { dueChip, kindName, ordinal, ownerChip, reachName, whyChip } from './why'

/** Some conversations in order, under a name; without a name there is no heading. */
export interface Group {
  key: string
  name: string
  count?: number
  ids: number[]
}

interface Props {
  label: string
  groups: Group[]
  close?: boolean // a line each
  cursor?: number
  marked?: ReadonlySet<number>
  folded?: ReadonlySet<string>
  onSelect: (id: number, how: 'click' | 'toggle' | 'range') => void
  onOpen?: (id: number) => void
  onFold?: (key: string) => void
  onWhole?: (group: Group) => void // all of a group
  onSwipe?: (id: number, way: Swipe) => void
  swipes?: Record<Swipe, string> // what they do, in a word
  onEnd?: () => void
  time?: (slip: Slip) => string
  wrap?: (id: number, slip: ReactNode) => ReactNode // what a slip is put into
}

// px of a slip; all are as high, so that nothing moves when they are filled in
const LINE = { roomy: 76, close: 29 }
const HEAD = 32
// Lines that are looked for together: what is in view is found among so many fewer, also of a hundred thousand.
const BLOCK = 8

/** A queue of slips, of which only those in view are drawn and fetched. */
export function SlipList({
  label,
  groups,
  close,
  cursor,
  marked,
  folded,
  onSelect,
  onOpen,
  onFold,
  onWhole,
  onSwipe,
  swipes,
  onEnd,
  time = timeOf,
  wrap,
}: Props) {
  const scroll = useRef<HTMLDivElement>(null)
  const list = useRef<HTMLDivElement>(null)
  useArrival(list)
  const line = LINE[close ? 'close' : 'roomy']
  // Where each group begins, in lines, in slips and in px: a line is found by search, not kept.
  const { starts, lines, total, height } = useMemo(() => {
    const starts: { line: number; slip: number; top: number; group: Group; shown: number }[] = []
    let lines = 0
    let total = 0
    let height = 0
    for (const group of groups) {
      if (!group.ids.length) continue
      const shown = folded?.has(group.key) ? 0 : group.ids.length
      starts.push({ line: lines, slip: total, top: height, group, shown })
      lines += shown + (group.name ? 1 : 0)
      total += shown
      height += shown * line + (group.name ? HEAD : 0)
    }
    return { starts, lines, total, height }
  }, [groups, folded, line])
  const lineAt = useCallback(
    (i: number): { group: Group; id?: number; n: number; top: number; size: number } => {
      let lo = 0
      let hi = starts.length - 1
      while (lo < hi) {
        const mid = (lo + hi + 1) >> 1
        if (starts[mid].line <= i) lo = mid
        else hi = mid - 1
      }
      const { line: first, slip, top, group } = starts[lo]
      const within = i - first - (group.name ? 1 : 0)
      if (within < 0) return { group, n: 0, top, size: HEAD }
      const under = top + (group.name ? HEAD : 0)
      return { group, id: group.ids[within], n: slip + within + 1, top: under + within * line, size: line }
    },
    [starts, line],
  )
  const at = useMemo(() => {
    if (cursor === undefined) return -1
    for (const s of starts) {
      const within = s.shown ? s.group.ids.indexOf(cursor) : -1
      if (within >= 0) return s.line + (s.group.name ? 1 : 0) + within
    }
    return -1
  }, [starts, cursor])
  const topOf = useCallback((i: number) => (i < lines ? lineAt(i).top : height), [lineAt, lines, height])
  const rows = useVirtualizer({
    count: Math.ceil(lines / BLOCK),
    getScrollElement: () => scroll.current,
    estimateSize: (b) => topOf((b + 1) * BLOCK) - topOf(b * BLOCK),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a new function lets all heights be computed anew
    getItemKey: useCallback((b: number) => b, [topOf]),
    overscan: 1,
  })
  const room = rows.scrollRect?.height
  const blocks = rows.getVirtualItems()
  const from = (blocks[0]?.index ?? 0) * BLOCK
  const end = blocks.length ? Math.min((blocks[blocks.length - 1].index + 1) * BLOCK, lines) : 0
  const last = end - 1
  useEffect(() => {
    if (onEnd && lines && last >= lines - 20) onEnd()
  }, [last, lines, onEnd])
  useEffect(() => {
    if (at < 0 || room === undefined) return
    // The name of a group stays in view with its first slip. What is in view needs no scrolling, which has all laid out.
    const above = at > 0 && lineAt(at - 1).id === undefined ? at - 1 : at
    const { top } = lineAt(above)
    const { top: own, size } = lineAt(at)
    const offset = rows.scrollOffset ?? 0
    if (top < offset) rows.scrollToOffset(top)
    else if (own + size > offset + room) rows.scrollToOffset(own + size - room)
    // On a low screen the page scrolls, too.
    if (low()) document.getElementById('slip-' + cursor)?.scrollIntoView({ block: 'nearest' })
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when the cursor moves, or the room for the list changes
  }, [at, room])
  const shown = Array.from({ length: Math.max(0, end - from) }, (_, i) => lineAt(from + i))
  // Where each stands among all is for who does not see it: told once the screen is painted, and without drawing anew.
  useEffect(
    () =>
      afterPaint(() => {
        for (const { id, n } of shown) {
          const option = id === undefined ? null : document.getElementById('slip-' + id)
          option?.setAttribute('aria-posinset', String(n))
          option?.setAttribute('aria-setsize', String(total))
        }
      }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is shown follows from these
    [starts, from, end, total],
  )
  // Each stands as far from the end as ever when one above it goes: it is the end that moves, and nothing is drawn anew.
  const fromEnd = ({ top, size }: { top: number; size: number }) => ({ top: top - height, height: size })
  const theEnd = { transform: `translateY(${height}px)` }
  return (
    <div ref={scroll} className="apart h-full overflow-y-auto overscroll-contain" data-testid="queue">
      <div className="relative" style={{ height }}>
        <div className="absolute inset-x-0 top-0 h-0" style={theEnd}>
          {shown.map(
            (line) =>
              line.id === undefined && (
                <div key={line.group.key} className="absolute inset-x-0" style={fromEnd(line)}>
                  <Heading
                    group={line.group}
                    folded={!!folded?.has(line.group.key)}
                    onFold={onFold}
                    onWhole={onWhole}
                  />
                </div>
              ),
          )}
        </div>
        <div
          ref={list}
          role="listbox"
          aria-label={label}
          aria-multiselectable={!!marked}
          tabIndex={0}
          aria-activedescendant={at >= from && at < end ? 'slip-' + cursor : undefined}
          className="group/slips pointer-events-none absolute inset-0 outline-none"
        >
          <div role="presentation" className="absolute inset-x-0 top-0 h-0" style={theEnd}>
            {shown.map(
              (line) =>
                line.id !== undefined && (
                  <Line
                    key={line.id}
                    id={line.id}
                    top={line.top - height}
                    size={line.size}
                    close={close}
                    current={line.id === cursor}
                    marked={!!marked?.has(line.id)}
                    many={!!marked?.size}
                    time={time}
                    onSelect={onSelect}
                    onOpen={onOpen}
                    onSwipe={onSwipe}
                    swipes={swipes}
                    wrap={wrap}
                  />
                ),
            )}
          </div>
        </div>
      </div>
    </div>
  )
}

/** Whether the screen is so low that the page scrolls, and not the list alone. */
const low = () => window.innerHeight <= 500

function Heading({
  group,
  folded,
  onFold,
  onWhole,
}: {
  group: Group
  folded: boolean
  onFold?: (key: string) => void
  onWhole?: (group: Group) => void
}) {
  return (
    <div
      data-group={group.key}
      className="group flex h-8 items-center gap-1 px-3.5 pt-1 text-[11.5px] font-[650] text-accent"
    >
      {onFold ? (
        <Opener open={!folded} onClick={() => onFold(group.key)}>
          {folded ? (
            <CaretRightIcon size={11} weight="bold" aria-hidden />
          ) : (
            <CaretDownIcon size={11} weight="bold" aria-hidden />
          )}
          <span className="truncate">{group.name}</span>
        </Opener>
      ) : (
        <span className="truncate">{group.name}</span>
      )}
      <span className="flex-1" />
      {onWhole && (
        <TextButton tone="faint" small aria-label={sentences.chooseAll(group.name)} onClick={() => onWhole(group)}>
          {sentences.all}
        </TextButton>
      )}
      {group.count !== undefined && (
        <span className="font-medium text-ink-500 tabular-nums">{digits(group.count)}</span>
      )}
    </div>
  )
}

function timeOf(s: Slip) {
  return s.position.reason === 'back' || s.position.reason === 'someday'
    ? sentences.snoozed(short(s.position.snoozedAt))
    : short(s.lastAt)
}

interface LineProps {
  id: number
  close?: boolean
  current: boolean
  marked: boolean
  many: boolean
  time: (slip: Slip) => string
  onSelect: Props['onSelect']
  onOpen?: (id: number) => void
  onSwipe?: Props['onSwipe']
  swipes?: Props['swipes']
}

/** A slip where it stands, which is as far from the end as ever when one above it goes. */
const Line = memo(function Line({
  top,
  size,
  wrap,
  ...line
}: LineProps & { top: number; size: number; wrap?: Props['wrap'] }) {
  const slip = <SlipLine {...line} />
  return (
    <div role="presentation" className="pointer-events-auto absolute inset-x-0" style={{ top, height: size }}>
      {wrap ? wrap(line.id, slip) : slip}
    </div>
  )
})

function SlipLine({ id, close, current, marked, many, time, onSelect, onOpen, onSwipe, swipes }: LineProps) {
  const slip = useSlip(id)
  const touch = useTouch({
    onSwipe: onSwipe && ((way) => onSwipe(id, way)),
    onHold: () => onSelect(id, 'toggle'),
  })
  const onToggle = useCallback(() => onSelect(id, 'toggle'), [id, onSelect])
  const way = swipeAt(touch.by)
  const ground = marked ? 'bg-tide-100' : current ? 'bg-sand-0' : 'bg-sand-50 hover:bg-sand-100'
  return (
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus -- the list has both
    <div
      id={'slip-' + id}
      data-slip={id}
      role="option"
      aria-selected={current || marked}
      aria-current={current}
      onClick={(e) =>
        onSelect(id, e.ctrlKey || e.metaKey || (many && touch.byFinger()) ? 'toggle' : e.shiftKey ? 'range' : 'click')
      }
      onDoubleClick={() => onOpen?.(id)}
      {...touch.handlers}
      className={cx(
        'group relative h-full cursor-default touch-pan-y overflow-hidden border-b border-sand-200',
        'select-none',
        touch.by ? (touch.by > 0 ? 'bg-tide-200' : 'bg-sand-300') : '',
      )}
    >
      {touch.by !== 0 && swipes && (
        <span
          data-swipe
          className={cx(
            'absolute inset-y-0 flex items-center px-5 text-[13px] font-semibold text-ink-900',
            touch.by > 0 ? 'left-0' : 'right-0',
            way ? '' : 'opacity-50',
          )}
        >
          {swipes[way ?? (touch.by > 0 ? 'right' : 'left')]}
        </span>
      )}
      <div
        className={cx(
          'relative h-full',
          close ? 'flex items-center gap-3 pr-4 pl-[32px] text-[13.5px]' : 'px-3.5 pt-2 pl-[18px]',
          ground,
          slip?.unread ? 'slip-unread' : '',
          current && 'shadow-[inset_4px_0_0_var(--fill)]',
        )}
        style={touch.by ? { transform: `translateX(${touch.by}px)` } : undefined}
      >
        {slip &&
          (close ? (
            <CloseText slip={slip} time={time(slip)} marked={marked} many={many} onToggle={onToggle} />
          ) : (
            <SlipText slip={slip} time={time(slip)} marked={marked} many={many} onToggle={onToggle} />
          ))}
      </div>
    </div>
  )
}

interface TextProps {
  slip: Slip
  time: string
  marked: boolean
  many: boolean
  onToggle: () => void
}

/** The mark by which a slip is chosen with the mouse. */
function Choose({ marked, many, onToggle, className }: { className: string } & Omit<TextProps, 'slip' | 'time'>) {
  return (
    <span
      data-mark
      aria-hidden
      onClick={(e) => {
        e.stopPropagation()
        onToggle()
      }}
      className={cx(
        'z-10 grid size-[19px] shrink-0 cursor-pointer place-items-center rounded-[5px] border-[1.5px]',
        className,
        marked
          ? 'border-fill bg-fill text-white'
          : `border-sand-300 bg-sand-0 ${many ? '' : 'opacity-0 group-hover:opacity-100 [@media(pointer:coarse)]:opacity-70'}`,
      )}
    >
      {marked && <CheckIcon size={12} weight="bold" />}
    </span>
  )
}

/** Why it is here, and what is on it, as marks; none if there is nothing to say. */
function marksOf(slip: Slip) {
  const why = whyChip(slip)
  const due = slip.due && dueChip(slip.due)
  const kind = kindName(slip.kind)
  const owner = ownerChip(slip)
  if (
    !owner &&
    !why &&
    !due &&
    !slip.fact &&
    !slip.silent &&
    !slip.stream &&
    !kind &&
    !slip.files &&
    !slip.looks &&
    !slip.labels.length &&
    !slip.draft &&
    !slip.answers
  )
    return null
  return (
    <>
      {owner && <Chip tone={owner.tone}>{owner.text}</Chip>}
      {why && <Chip tone={why.tone}>{why.text}</Chip>}
      {due && <Chip tone={due.tone}>{due.text}</Chip>}
      {slip.fact && <Chip tone="tide">{slip.fact}</Chip>}
      {slip.silent && <Chip>{sentences.silenced}</Chip>}
      {slip.stream && !slip.of && <StreamChip id={slip.stream} />}
      {slip.answers && <Chip tone="with">{sentences.anAnswer}</Chip>}
      {slip.draft && (
        <span className="flex items-center gap-0.5 text-accent">
          <PencilSimpleLineIcon size={12} aria-hidden />
          {sentences.draft}
        </span>
      )}
      {slip.labels.map((l) => (
        <LabelChip key={l} id={l} />
      ))}
      {kind && <Chip>{kind}</Chip>}
      {slip.files > 0 && (
        <span className="flex items-center gap-0.5">
          <PaperclipIcon size={12} aria-hidden />
          {plural(slip.files, sentences.file)}
        </span>
      )}
      {slip.looks > 0 && (
        <span className={slip.looks > 1 ? 'font-semibold text-coral-600' : ''}>
          {sentences.look(ordinal(slip.looks + 1))}
        </span>
      )}
    </>
  )
}

/** Where it is and whether more of it is heard, beside what was found in it. */
function stateOf(slip: Slip) {
  const why = whyChip(slip)
  if (!why && !slip.silent) return null
  return (
    <>
      {why && <Chip tone={why.tone}>{why.text}</Chip>}
      {slip.silent && <Chip>{sentences.silenced}</Chip>}
    </>
  )
}

/** The stream it was put into, by its name. */
function StreamChip({ id }: { id: string }) {
  const own = useDeliveryState()?.own.find((o) => o.id === id)
  if (id === 'people' || id === 'machines') return <Chip>{sentences[id]}</Chip>
  return own ? <Chip>{own.name}</Chip> : null
}

const Signs = ({ slip }: { slip: Slip }) => (
  <>
    {slip.note && <NotePencilIcon size={13} aria-label={sentences.withANote} />}
    {slip.starred && <StarIcon size={13} weight="fill" className="text-accent" aria-label={sentences.starred} />}
  </>
)

/** A slip in one line: who, about what, how it begins, and at the end why it is here and since when. */
const CloseText = memo(function CloseText({ slip, time, marked, many, onToggle }: TextProps) {
  return (
    <>
      <Gauge level={slip.level} tip={slip.because} className="absolute top-[7px] left-[19px]" />
      <b className="w-44 shrink-0 truncate max-[700px]:w-32">
        {slip.unread && <span className="sr-only">{sentences.unread} </span>}
        {slip.level === FULL && <span className="sr-only">{sentences.important} </span>}
        {slip.from}
      </b>
      <p className="min-w-0 flex-1 truncate text-ink-500">
        <span className="font-[550] text-ink-900">{slip.title || slip.subject}</span> {slip.begins}
      </p>
      <span className="flex max-w-[46%] shrink-0 items-center gap-1.5 overflow-hidden text-[11px] whitespace-nowrap text-ink-500 max-[700px]:hidden">
        {marksOf(slip)}
      </span>
      <span className="flex min-w-11 shrink-0 items-center justify-end gap-1 text-[12px] whitespace-nowrap text-ink-500">
        <Signs slip={slip} />
        {time}
      </span>
      <Choose marked={marked} many={many} onToggle={onToggle} className={cx('-mr-2', !many && 'max-[700px]:hidden')} />
    </>
  )
})

const SlipText = memo(function SlipText({ slip, time, marked, many, onToggle }: TextProps) {
  const place = useContext(FindingContext).at(slip.id)
  const found = place && (place.excerpt.length > 0 || place.kind !== 'message') ? place : undefined
  const marks = found ? stateOf(slip) : marksOf(slip)
  return (
    <>
      <div className="flex justify-between gap-2">
        <b className="truncate">
          {slip.unread && <span className="sr-only">{sentences.unread} </span>}
          {slip.level === FULL && <span className="sr-only">{sentences.important} </span>}
          {slip.from}
        </b>
        <span className="flex shrink-0 items-center gap-1 text-[12px] whitespace-nowrap text-ink-500">
          <Signs slip={slip} />
          {time}
        </span>
      </div>
      <Gauge level={slip.level} tip={slip.because} className="absolute top-[33px] left-[8px]" />
      <Choose marked={marked} many={many} onToggle={onToggle} className="absolute right-3 bottom-2" />
      <p className="truncate text-ink-700">{slip.title || slip.subject}</p>
      <div className="mt-[3px] flex items-center gap-1.5 overflow-hidden text-[11px] whitespace-nowrap text-ink-500">
        {marks}
        {found ? (
          <Suspense fallback={null}>
            <Excerpt at={found} />
          </Suspense>
        ) : slip.begins ? (
          <span className="min-w-0 flex-1 truncate text-[12px]">{slip.begins}</span>
        ) : (
          !marks && (
            <span>
              {[reachName(slip.reach), slip.messages > 1 && plural(slip.messages, sentences.message)]
                .filter(Boolean)
                .join(' · ')}
            </span>
          )
        )}
      </div>
    </>
  )
})
