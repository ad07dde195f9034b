import { cx } from '../../kit/cx'
import { TimeBlock } from '../../kit/pieces'
import { RadioGroup } from '../../kit/choose'
import { useRef, useState } from 'react'
import { XIcon } from '@phosphor-icons/react'
import { post } from '../../api/client'
import { clockOf } from '../../api/times'
import type { Block, Day, Plan, Span } from '../../api/gen/delivery'
import type { PlanPreview } from '../../api/desk'
import { Button, Opener } from '../../kit/button'
import { Field } from '../../kit/field'

export const order = [1, 2, 3, 4, 5, 6, 0] // Monday first
const names = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']
const long = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
const STEP = 15 // minutes
const DAY = 24 * 60

/** Where a minute of the day lies on its line: the hours from 6 to 22 have most of it. */
const scale: [number, number][] = [
  [0, 0],
  [360, 6],
  [1320, 94],
  [DAY, 100],
]
const place = (m: number) => {
  const i = Math.max(
    1,
    scale.findIndex(([at]) => m <= at),
  )
  const [[a, x], [b, y]] = [scale[i - 1], scale[i]]
  return x + ((m - a) / (b - a)) * (y - x)
}
const minuteAt = (percent: number) => {
  const i = Math.max(
    1,
    scale.findIndex(([, x]) => percent <= x),
  )
  const [[a, x], [b, y]] = [scale[i - 1], scale[i]]
  const m = a + ((percent - x) / (y - x)) * (b - a)
  return Math.max(0, Math.min(DAY, Math.round(m / STEP) * STEP))
}

type Tool = 'open' | 'quiet' | 'focus'
const tools: Record<Tool, string> = { open: 'open hours', quiet: 'quiet hours', focus: 'a block' }
interface Chosen {
  day: number
  kind: Tool | 'round'
  i: number
}
type Stream = 'people' | 'machines'

/** The week as lines: drag to draw, click to set a round; each piece moves by arrow keys, and all of it can be typed. */
export function Week({
  plan,
  stream,
  texts,
  edit,
}: {
  plan: Plan
  stream: Stream
  texts?: string[]
  edit: (p: Plan) => void
}) {
  const [tool, setTool] = useState<Tool>('open')
  const [block, setBlock] = useState('writing')
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [typed, setTyped] = useState('')
  const [wrong, setWrong] = useState('')
  const [open, setOpen] = useState<number | null>(null) // the day whose line is typed
  const days = plan[stream]
  const put = (changed: Record<number, Day>) => edit({ ...plan, [stream]: days.map((d, i) => changed[i] ?? d) })
  const change = (day: number, d: Partial<Day>) => put({ [day]: { ...days[day], ...d } })
  const read = async (body: object, done: () => void) => {
    try {
      edit((await post<PlanPreview>('/delivery/preview', { plan, stream, ...body })).plan)
      setWrong('')
      done()
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  return (
    <div>
      <div className="mb-2.5 flex flex-wrap items-end gap-x-4 gap-y-2 text-[12.5px]">
        <form
          className="min-w-64 flex-1"
          onSubmit={(e) => {
            e.preventDefault()
            if (typed.trim()) void read({ line: typed }, () => setTyped(''))
          }}
        >
          <Field
            id="line"
            label="Type it"
            value={typed}
            wrong={wrong}
            autoComplete="off"
            placeholder="mon–fri 9, 14, 16:30   or   quiet after 18"
            onChange={(e) => {
              setTyped(e.target.value)
              setWrong('')
            }}
          />
        </form>
        <div className="flex flex-wrap items-center gap-1.5 pb-1">
          <span className="text-ink-500">A click sets a round; dragging draws</span>
          <RadioGroup
            label="What dragging draws"
            look="plain"
            value={tool}
            options={(Object.keys(tools) as Tool[]).map((t) => ({ id: t, name: tools[t] }))}
            onChange={setTool}
          />
          {tool === 'focus' && (
            <Field
              label="What the block is for"
              hideLabel
              small
              className="w-24"
              value={block}
              maxLength={40}
              onChange={(e) => setBlock(e.target.value)}
            />
          )}
        </div>
      </div>
      <div className="grid grid-cols-[46px_1fr] items-center gap-y-[7px] max-[700px]:grid-cols-[38px_1fr]">
        {order.map((d) => (
          <Line
            key={d}
            day={d}
            value={days[d]}
            text={texts?.[d] ?? ''}
            tool={tool}
            block={block.trim() || 'block'}
            chosen={chosen?.day === d ? chosen : null}
            choose={setChosen}
            change={(c) => change(d, c)}
            open={open === d}
            toggle={() => {
              setOpen(open === d ? null : d)
              setWrong('')
            }}
          />
        ))}
        <span />
        <div className="relative h-4 text-[11px] text-ink-500" aria-hidden>
          {[6, 8, 10, 12, 14, 16, 18, 20, 22].map((h) => (
            <span
              key={h}
              className={`absolute -translate-x-1/2 ${h % 4 ? 'max-[700px]:hidden' : ''}`}
              style={{ left: place(h * 60) + '%' }}
            >
              {String(h).padStart(2, '0')}
            </span>
          ))}
        </div>
      </div>
      {open !== null && (
        <DayForm
          key={`${stream}-${open}-${texts?.[open]}`}
          day={open}
          text={texts?.[open] ?? ''}
          write={(text) => void read({ day: open, text }, () => {})}
          copy={(to) => put(Object.fromEntries(to.map((d) => [d, structuredClone(days[open])])))}
        />
      )}
    </div>
  )
}

function DayForm({
  day,
  text,
  write,
  copy,
}: {
  day: number
  text: string
  write: (text: string) => void
  copy: (to: number[]) => void
}) {
  const [value, setValue] = useState(text)
  const others = order.filter((d) => d !== day)
  return (
    <form
      aria-label={long[day]}
      className="ebb mt-2 flex flex-wrap items-end gap-x-4 gap-y-2 rounded-[10px] border border-sand-300 bg-sand-0 px-3.5 py-2.5"
      onSubmit={(e) => {
        e.preventDefault()
        write(value)
      }}
    >
      <Field
        id="day-text"
        className="min-w-64 flex-1"
        label={`All that happens on ${long[day]}`}
        value={value}
        autoFocus
        autoComplete="off"
        onChange={(e) => setValue(e.target.value)}
      />
      <Button type="submit" disabled={value === text}>
        Set the day
      </Button>
      <div className="flex flex-wrap items-center gap-1 text-[12.5px]">
        <span className="text-ink-500">Copy it to</span>
        {others.map((d) => (
          <Button size="small" ground="quiet" key={d} onClick={() => copy([d])}>
            {names[d]}
          </Button>
        ))}
        <Button size="small" ground="quiet" onClick={() => copy(others)}>
          every day
        </Button>
      </div>
    </form>
  )
}

/** By how much a key moves a piece, and whether it takes it away; such a key does nothing else. */
function moved(e: React.KeyboardEvent) {
  const by = e.key === 'ArrowRight' ? STEP : e.key === 'ArrowLeft' ? -STEP : 0
  const gone = e.key === 'Delete' || e.key === 'Backspace'
  if (by || gone) {
    e.preventDefault()
    e.stopPropagation()
  }
  return { by, gone }
}

interface LineProps {
  day: number
  value: Day
  text: string
  tool: Tool
  block: string
  chosen: Chosen | null
  choose: (c: Chosen | null) => void
  change: (c: Partial<Day>) => void
  open: boolean
  toggle: () => void
}

function Line({ day, value, text, tool, block, chosen, choose, change, open, toggle }: LineProps) {
  const line = useRef<HTMLDivElement>(null)
  const [drawn, setDrawn] = useState<Span | null>(null)
  const from = useRef<{ m: number; x: number } | null>(null)
  const at = (e: React.PointerEvent) => {
    const box = line.current!.getBoundingClientRect()
    return minuteAt(((e.clientX - box.left) / box.width) * 100)
  }
  const add = (span: Span) => {
    if (tool === 'focus') change({ focus: [...value.focus, { ...span, name: block }] })
    else change({ [tool]: [...value[tool], span] })
  }
  const setRound = (m: number) => {
    if (m < DAY && !value.rounds.includes(m)) change({ rounds: [...value.rounds, m].sort((a, b) => a - b) })
  }
  const spans = (kind: Tool) => value[kind] as (Span & Partial<Block>)[]
  const piece = (kind: Tool, i: number) => ({
    chosen: chosen?.kind === kind && chosen.i === i,
    choose: () => choose({ day, kind, i }),
    take: () => {
      change({ [kind]: spans(kind).filter((_, n) => n !== i) })
      choose(null)
    },
    set: (s: Span) => {
      if (s.from >= 0 && s.to <= DAY && s.from < s.to)
        change({ [kind]: spans(kind).map((o, n) => (n === i ? { ...o, ...s } : o)) })
    },
  })
  return (
    <>
      <Opener
        open={open}
        aria-label={`${names[day]}: ${text || 'nothing comes in'}. Type or copy it`}
        title={text}
        className={`text-[13.5px] font-[650] ${open ? 'text-accent' : ''}`}
        onClick={toggle}
      >
        {names[day]}
      </Opener>
      <div
        ref={line}
        data-day={day}
        role="group"
        aria-label={`${long[day]}: ${text || 'nothing comes in'}`}
        className="relative h-[46px] touch-pan-y overflow-hidden rounded-[8px] bg-tide-100 select-none"
        onPointerDown={(e) => {
          if (e.button !== 0 || (e.target as HTMLElement).closest('[data-piece]')) return
          choose(null)
          from.current = { m: at(e), x: e.clientX }
          e.currentTarget.setPointerCapture(e.pointerId)
        }}
        onPointerMove={(e) => {
          if (!from.current || Math.abs(e.clientX - from.current.x) < 7) return
          const m = at(e)
          setDrawn({ from: Math.min(m, from.current.m), to: Math.max(m, from.current.m) })
        }}
        onPointerUp={() => {
          const start = from.current
          from.current = null
          if (drawn && drawn.from < drawn.to) add(drawn)
          else if (start && !drawn) setRound(start.m)
          setDrawn(null)
        }}
        onPointerCancel={() => {
          from.current = null
          setDrawn(null)
        }}
      >
        {(['open', 'quiet', 'focus'] as Tool[]).flatMap((kind) =>
          spans(kind).map((s, i) => <Piece key={kind + i} kind={kind} span={s} day={day} {...piece(kind, i)} />),
        )}
        {drawn && (
          <div
            className={cx(
              'absolute inset-y-0 rounded-[4px] border-2 border-dashed border-fill',
              tool === 'open' ? 'open-hours' : tool === 'focus' ? 'block-stripes' : 'quiet-hours',
            )}
            style={{ left: place(drawn.from) + '%', width: place(drawn.to) - place(drawn.from) + '%' }}
          >
            <span className="px-1 text-[11px] font-semibold">
              {clockOf(drawn.from)}–{clockOf(drawn.to)}
            </span>
          </div>
        )}
        {value.rounds.map((m, i) => (
          <TimeBlock
            look="round"
            marked={chosen?.kind === 'round' && chosen.i === i}
            key={m}
            data-piece
            aria-label={`Round ${clockOf(m)}, ${long[day]}. Arrow keys move it, Delete takes it away`}
            aria-pressed={chosen?.kind === 'round' && chosen.i === i}
            onClick={() => choose({ day, kind: 'round', i })}
            onFocus={() => choose({ day, kind: 'round', i })}
            onKeyDown={(e) => {
              const { by, gone } = moved(e)
              if (gone) {
                choose(null)
                return change({ rounds: value.rounds.filter((_, n) => n !== i) })
              }
              if (by && m + by >= 0 && m + by < DAY && !value.rounds.includes(m + by))
                change({ rounds: value.rounds.map((o, n) => (n === i ? m + by : o)) })
            }}
            style={{ left: place(m) + '%' }}
          >
            {clockOf(m)}
            {chosen?.kind === 'round' && chosen.i === i && (
              <Away
                take={() => {
                  change({ rounds: value.rounds.filter((_, n) => n !== i) })
                  choose(null)
                }}
              />
            )}
          </TimeBlock>
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

interface PieceProps {
  kind: Tool
  span: Span & { name?: string }
  day: number
  chosen: boolean
  choose: () => void
  take: () => void
  set: (s: Span) => void
}

function Piece({ kind, span, day, chosen, choose, take, set }: PieceProps) {
  const name = kind === 'focus' ? span.name! : kind
  const width = place(span.to) - place(span.from)
  const words = `${clockOf(span.from)}–${clockOf(span.to)}`
  const shown =
    width < 5
      ? ''
      : chosen
        ? kind === 'open'
          ? words
          : `${name} ${words}`
        : kind === 'focus'
          ? width > 7
            ? `${name}, nothing in`
            : name
          : kind === 'quiet'
            ? name
            : ''
  const said = chosen
    ? `${name} ${words}`
    : kind === 'focus'
      ? `${name}, nothing in, ${words}`
      : `${kind} hours ${words}`
  return (
    <TimeBlock
      look={kind}
      marked={chosen}
      data-piece
      aria-pressed={chosen}
      title={`${name} ${words}`}
      aria-label={`${said}, ${long[day]}. Arrow keys move it, with Shift its end; Delete takes it away`}
      onClick={choose}
      onFocus={choose}
      onKeyDown={(e) => {
        const { by, gone } = moved(e)
        if (gone) take()
        else if (by)
          set(e.shiftKey ? { from: span.from, to: span.to + by } : { from: span.from + by, to: span.to + by })
      }}
      className={span.to === DAY && span.from > 0 ? 'text-right' : 'text-left'}
      style={{ left: place(span.from) + '%', width: width + '%' }}
    >
      {shown && (
        <span className={`block overflow-hidden leading-[1.3] ${width < 20 ? 'max-[700px]:hidden' : ''}`}>{shown}</span>
      )}
      {chosen && <Away take={take} />}
    </TimeBlock>
  )
}
