import { useState } from 'react'
import type { Plan } from '../../api/gen/delivery'
import { Button } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { cx } from '../../kit/cx'
import { Field } from '../../kit/field'
import { Line } from './day'
import { long, names, order } from './days'
import { place, type Tool } from './drawing'
import { sentences } from './sentences'
import { useTyping } from './typing'

const tools: Record<Tool, string> = { open: sentences.openHours, quiet: sentences.quietHours, focus: sentences.aBlock }

/** The week as lines: drag to draw, click to set a round; each piece moves by arrow keys, and all of it can be typed. */
export function Week(props: { plan: Plan; stream: string; texts?: string[]; edit: (p: Plan) => void }) {
  const { stream, texts } = props
  const {
    meant,
    tool,
    setTool,
    block,
    setBlock,
    chosen,
    setChosen,
    typed,
    setTyped,
    wrong,
    setWrong,
    open,
    setOpen,
    days,
    put,
    change,
    read,
  } = useTyping(props)
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
            label={sentences.typeIt}
            value={typed}
            wrong={wrong}
            autoComplete="off"
            placeholder={sentences.monFri914}
            onChange={(e) => {
              setTyped(e.target.value)
              setWrong('')
            }}
            aria-describedby="line-means"
          />
          <p
            id="line-means"
            data-testid="line-means"
            aria-live="polite"
            className={cx(
              'mt-1 min-h-[17px] text-[12px] font-semibold',
              meant?.wrong ? 'text-amber-600' : 'text-accent',
            )}
          >
            {wrong ? '' : meant?.wrong ? meant.says : meant ? sentences.enterDraws(meant.says) : ''}
          </p>
        </form>
        <div className="flex flex-wrap items-center gap-1.5 pb-1">
          <span className="text-ink-500">{sentences.aClickSetsA}</span>
          <RadioGroup
            label={sentences.whatDraggingDraws}
            look="plain"
            value={tool}
            options={(Object.keys(tools) as Tool[]).map((t) => ({ id: t, name: tools[t] }))}
            onChange={setTool}
          />
          {tool === 'focus' && (
            <Field
              label={sentences.whatTheBlockIs}
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
            value={meant?.days?.[d] ?? days[d]}
            drawnAhead={!!meant?.days && JSON.stringify(meant.days[d]) !== JSON.stringify(days[d])}
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
        label={sentences.allThatHappensOn(long[day])}
        value={value}
        autoFocus
        autoComplete="off"
        onChange={(e) => setValue(e.target.value)}
      />
      <Button type="submit" disabled={value === text}>
        {sentences.setTheDay}
      </Button>
      <div className="flex flex-wrap items-center gap-1 text-[12.5px]">
        <span className="text-ink-500">{sentences.copyItTo}</span>
        {others.map((d) => (
          <Button size="small" ground="quiet" key={d} onClick={() => copy([d])}>
            {names[d]}
          </Button>
        ))}
        <Button size="small" ground="quiet" onClick={() => copy(others)}>
          {sentences.everyDay}
        </Button>
      </div>
    </form>
  )
}
