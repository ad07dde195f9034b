import { XIcon } from '@phosphor-icons/react'
import type { Block, Day, Span } from '../../api/gen/delivery'
import { clockOf } from '../../api/times'
import { Opener } from '../../kit/button'
import { cx } from '../../kit/cx'
import { TimeBlock } from '../../kit/pieces'
import { long, names } from './days'
import { DAY, drawn, keyed, moved, type PieceAt, place, type Tool, useDrawing, without, withRound } from './drawing'
import { sentences } from './sentences'
import { type Chosen } from './typing'

interface LineProps {
  day: number
  value: Day
  drawnAhead: boolean // it is shown as a line that is being typed would draw it
  text: string
  tool: Tool
  block: string
  chosen: Chosen | null
  choose: (c: Chosen | null) => void
  change: (d: Day) => void
  open: boolean
  toggle: () => void
}

export function Line({ day, value, drawnAhead, text, tool, block, chosen, choose, change, open, toggle }: LineProps) {
  const pick = (p: PieceAt | null) => choose(p && { ...p, day })
  const set = (d: Day) => d !== value && change(d)
  const drawing = useDrawing(value, {
    draw: (span) => set(drawn(value, tool, span, block)),
    round: (minute) => set(withRound(value, minute)),
    change: set,
    pick,
  })
  const piece = (kind: PieceAt['kind'], i: number) => ({
    chosen: chosen?.kind === kind && chosen.i === i,
    choose: () => pick({ kind, i }),
    take: () => {
      set(without(value, { kind, i }))
      choose(null)
    },
    move: (by: number, end: boolean) => set(moved(value, { kind, i }, by, end ? 'to' : 'whole')),
  })
  return (
    <>
      <Opener
        open={open}
        aria-label={sentences.typeOrCopyIt(names[day], text || sentences.nothingComesIn)}
        title={text}
        className={`text-[13.5px] font-[650] ${open ? 'text-accent' : ''}`}
        onClick={toggle}
      >
        {names[day]}
      </Opener>
      <div
        data-day={day}
        data-ahead={drawnAhead}
        role="group"
        aria-label={`${long[day]}: ${text || sentences.nothingComesIn}`}
        className={cx(
          'relative h-[46px] touch-pan-y overflow-hidden rounded-[8px] bg-tide-100 select-none',
          drawing.lifted && 'outline-2 outline-offset-1 outline-fill',
          drawnAhead && 'pointer-events-none outline-2 outline-offset-1 outline-fill outline-dashed',
        )}
        {...drawing.handlers}
      >
        {(['open', 'quiet', 'focus'] as Tool[]).flatMap((kind) =>
          (drawing.day[kind] as (Span & Partial<Block>)[]).map((s, i) => (
            <Piece key={kind + i} kind={kind} i={i} span={s} day={day} {...piece(kind, i)} />
          )),
        )}
        {drawing.span && (
          <div
            className={cx(
              'absolute inset-y-0 rounded-[4px] border-2 border-dashed border-fill',
              tool === 'open' ? 'open-hours' : tool === 'focus' ? 'block-stripes' : 'quiet-hours',
            )}
            style={{
              left: place(drawing.span.from) + '%',
              width: place(drawing.span.to) - place(drawing.span.from) + '%',
            }}
          >
            <span className="px-1 text-[11px] font-semibold">
              {clockOf(drawing.span.from)}–{clockOf(drawing.span.to)}
            </span>
          </div>
        )}
        {drawing.day.rounds.map((m, i) => (
          <Round key={i} i={i} minute={m} within={within(value, m)} day={day} {...piece('round', i)} />
        ))}
      </div>
    </>
  )
}

/** Takes a piece away, by mouse. */
const Away = ({ take }: { take: () => void }) => (
  <span
    aria-hidden
    className={cx(
      'absolute -top-1.5 -right-1.5 grid size-[17px] place-items-center rounded-full border',
      'border-sand-300 bg-sand-0 text-[11px] leading-none text-ink-900',
    )}
    onClick={(e) => {
      e.stopPropagation()
      take()
    }}
  >
    <XIcon size={10} weight="bold" />
  </span>
)

interface Handled {
  day: number
  i: number
  chosen: boolean
  choose: () => void
  take: () => void
  move: (by: number, end: boolean) => void
}

const pieceKeys =
  ({ take, move }: Handled) =>
  (e: React.KeyboardEvent) => {
    const { by, gone } = keyed(e)
    if (gone) take()
    else if (by) move(by, e.shiftKey)
  }

/** The block, or the quiet hours, in which a round lies all the same. */
const within = (d: Day, minute: number) =>
  d.focus.find((b) => b.from <= minute && minute < b.to)?.name ??
  (d.quiet.some((q) => q.from <= minute && minute < q.to) ? sentences.quietHoursWithin : '')

function Round({ minute, within, ...p }: Handled & { minute: number; within: string }) {
  return (
    <TimeBlock
      look="round"
      marked={p.chosen}
      data-piece={'round ' + p.i}
      className={within ? 'ring-2 ring-amber-600 ring-offset-2' : ''}
      data-within={within}
      title={within ? sentences.roundWithin(clockOf(minute), within) : undefined}
      aria-label={
        (within ? sentences.roundWithin(clockOf(minute), within) + ' ' : '') +
        sentences.roundArrowKeysMove(clockOf(minute), long[p.day])
      }
      aria-pressed={p.chosen}
      onClick={p.choose}
      onFocus={p.choose}
      onKeyDown={pieceKeys(p)}
      style={{ left: place(minute) + '%' }}
    >
      {clockOf(minute)}
      {p.chosen && <Away take={p.take} />}
    </TimeBlock>
  )
}

function Piece({ kind, span, ...p }: Handled & { kind: Tool; span: Span & { name?: string } }) {
  const name = kind === 'focus' ? span.name! : kind
  const width = place(span.to) - place(span.from)
  const words = `${clockOf(span.from)}–${clockOf(span.to)}`
  const shown =
    width < 5
      ? ''
      : p.chosen
        ? kind === 'open'
          ? words
          : `${name} ${words}`
        : kind === 'focus'
          ? width > 7
            ? sentences.nothingIn(name)
            : name
          : kind === 'quiet'
            ? name
            : ''
  const said = p.chosen
    ? `${name} ${words}`
    : kind === 'focus'
      ? sentences.nothingInNamed(name, words)
      : sentences.hours(kind, words)
  return (
    <TimeBlock
      look={kind}
      marked={p.chosen}
      data-piece={kind + ' ' + p.i}
      aria-pressed={p.chosen}
      title={`${name} ${words}`}
      aria-label={sentences.arrowKeysMoveIt(said, long[p.day])}
      onClick={p.choose}
      onFocus={p.choose}
      onKeyDown={pieceKeys(p)}
      className={span.to === DAY && span.from > 0 ? 'text-right' : 'text-left'}
      style={{ left: place(span.from) + '%', width: width + '%' }}
    >
      {shown && (
        <span className={`block overflow-hidden leading-[1.3] ${width < 20 ? 'max-[700px]:hidden' : ''}`}>{shown}</span>
      )}
      {p.chosen && <Away take={p.take} />}
    </TimeBlock>
  )
}
