import { useEffect, useRef, useState } from 'react'
import { post } from '../api/client'
import type { LineAsked, NewFollowUp } from '../api/desk'
import type { FollowUp, Part, Written } from '../api/gen/followup'
import type { Moment } from '../api/gen/when'
import { useOffers } from './combo'
import { cx } from './cx'
import { useKeptField } from './keeping'
import { Waves } from './kit'
import { type Said, withPart } from './parts'

const tones: Record<string, string> = {
  due: 'bg-amber-100 text-amber-600',
  start: 'bg-amber-100 text-amber-600',
  remind: 'bg-amber-100 text-amber-600',
  person: 'bg-plum-100 text-plum-600',
  wait: 'bg-plum-100 text-plum-600',
  ask: 'bg-plum-100 text-plum-600',
}
const names: Record<string, string> = {
  project: 'project',
  context: 'at',
  stage: 'stage',
  label: 'label',
  repeat: 'repeats',
  note: 'note',
  person: 'with',
}

/** What the line says of a follow-up, as it is sent. */
export const toNew = (f: FollowUp, keep: boolean): NewFollowUp => ({
  title: f.title,
  due: f.due,
  start: f.start,
  priority: f.priority || 5,
  keep,
  stage: f.stage,
  project: f.project,
  context: f.context,
  with: f.with,
  labels: f.labels,
  notes: f.notes,
  checklist: f.checklist,
  effort: f.effort,
  percent: f.percent,
  reminders: f.reminders,
  repeat: f.repeat,
  waits: f.waits,
})

interface Props {
  id: string
  label: string
  placeholder?: string
  autoFocus?: boolean
  proposed?: { title: string; due?: Moment; project?: string } // it stays unless the line says otherwise
  quiet?: boolean // what was understood is shown only while there is something to show
  className?: string
  said?: Said // by a click beside it
  onWritten?: (w: Written | null) => void
  onAccept: (w: Written) => Promise<unknown> | void
  onCancel?: () => void
}

/**
 * One line that says all of a follow-up, its parts between slashes or at its end. What each was taken for stands below it;
 * what stood without slashes can be taken off, and is title again. Tab completes.
 */
export function LineField({
  id,
  label,
  placeholder,
  autoFocus,
  proposed,
  quiet,
  className = '',
  said,
  onWritten,
  onAccept,
  onCancel,
}: Props) {
  const [text, setText] = useState('')
  const [shown, setShown] = useState<{ for: string; written: Written } | null>(null)
  const latest = useRef(text)
  const busy = useRef(false)
  const told = useRef(onWritten)
  useEffect(() => {
    told.current = onWritten
  })
  const { typed } = useKeptField(id, text, setText)
  const [off, setOff] = useState<string[]>([]) // pieces of the line that are title though they could be more
  const keptOff = useKeptField(id + '-off', off.join('\n'), (all) => setOff(all.split('\n')))
  const leave = (all: string[]) => {
    setOff(all)
    keptOff.typed(all.join('\n'))
  }
  const change = (next: string) => {
    setText(next)
    typed(next)
    if (!off.every((o) => next.includes(o))) leave(off.filter((o) => next.includes(o)))
    if (!next.trim()) setShown(null)
  }
  const [heard, setHeard] = useState(said?.n ?? 0)
  if (said && said.n !== heard) {
    setHeard(said.n)
    const before = said.kind === 'label' ? undefined : shown?.written.parts.find((p) => p.kind === said.kind)?.text
    change(withPart(text, before, said.words))
  }
  const base = JSON.stringify([proposed ?? {}, off])
  const asks = useRef(base)
  const read = async (line: string) => {
    const asked: LineAsked = { line, title: proposed?.title ?? '', due: proposed?.due, project: proposed?.project, off }
    const written = await post<Written>('/follow-ups/line', asked).catch(() => null)
    if (written && latest.current === line && asks.current === base) {
      setShown({ for: line, written })
      told.current?.(written)
    }
    return written
  }
  useEffect(() => {
    latest.current = text
    asks.current = base
    if (text.trim()) void read(text)
    else told.current?.(null)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- read only closes over what base names
  }, [text, base])
  const accept = async () => {
    if (busy.current) return // Enter twice makes one
    busy.current = true
    try {
      await take()
    } finally {
      busy.current = false
    }
  }
  const take = async () => {
    const before = shown?.for === text ? shown.written : null
    const written = before ?? (await read(text))
    if (!written || (!text.trim() && !proposed?.title)) return
    if (written.parts.some((p) => p.wrong) && !before) return // what is wrong with it has to be seen first
    await onAccept(written)
    change('')
  }
  const offers = shown?.for === text ? shown.written.offers : []
  const parts = shown?.written.parts ?? []
  const offered = useOffers(id, offers.length, text)
  const at = offered.at
  const doubt = parts.find((p) => p.wrong)
  const last = parts.findLastIndex((p) => p.loose)
  const takeOff = (p: Part) => {
    leave([...off, p.text])
    setShown((s) => s && { ...s, for: '' }) // it is read anew before it is taken
  }
  return (
    <div className={'min-w-0 ' + className}>
      <label htmlFor={id} className={quiet ? 'sr-only' : 'mb-1 block text-[11.5px] font-[650] text-ink-500'}>
        {label}
      </label>
      <input
        id={id}
        data-line
        autoFocus={autoFocus}
        value={text}
        placeholder={placeholder}
        {...offered.field}
        aria-describedby={id + '-parts'}
        onChange={(e) => change(e.target.value)}
        onKeyDown={(e) => {
          if (e.nativeEvent.isComposing || offered.moves(e)) return
          if (e.key === 'Tab' && !e.shiftKey && offers[at])
            change(offers[at].text + (offers[at].text.endsWith(' ') ? '' : ' / '))
          else if (e.key === 'Backspace' && e.shiftKey && last >= 0) takeOff(parts[last])
          else if (e.key === 'Enter') void accept()
          else if (e.key === 'Escape' && (onCancel || text)) {
            if (onCancel) onCancel()
            else {
              change('')
              e.currentTarget.blur()
            }
          } else return
          e.preventDefault()
          e.stopPropagation()
        }}
        className={cx(
          'w-full rounded-[9px] border-[1.5px] border-sand-300 bg-sand-0 px-[13px] py-[7px] text-[14px]',
          'text-ink-900 outline-none placeholder:text-ink-500 focus:border-fill focus:ring-2',
          'focus:ring-tide-200',
        )}
      />
      <div
        className={
          quiet
            ? parts.length
              ? 'absolute top-full right-0 left-0 z-20 mt-1 rounded-[9px] border border-sand-300 bg-sand-0 p-2 shadow-lying'
              : ''
            : 'mt-1.5 min-h-[26px]'
        }
      >
        <ul id={id + '-parts'} data-testid={id + '-parts'} aria-live="polite" className="flex flex-wrap gap-1.5">
          {parts.map((p, i) => (
            <li key={i}>
              <PartChip part={p} keyed={i === last} onOff={p.loose ? () => takeOff(p) : undefined} />
            </li>
          ))}
        </ul>
        {doubt && (
          <p className="mt-1 text-[12.5px] font-semibold text-amber-600" role="status" data-testid={id + '-doubt'}>
            {doubt.wrong}
          </p>
        )}
        <ul
          id={offered.list}
          role="listbox"
          aria-label="Completions"
          className={offers.length ? 'mt-1 flex flex-wrap gap-1 text-[12px] text-ink-500' : 'hidden'}
        >
          {offers.map((o, i) => (
            <li
              key={o.text}
              id={offered.option(i)}
              role="option"
              aria-selected={i === at}
              onMouseDown={(e) => {
                e.preventDefault()
                change(o.text + (o.text.endsWith(' ') ? '' : ' / '))
              }}
              className={`cursor-pointer rounded-[6px] px-1.5 py-0.5 ${i === at ? 'bg-tide-100 text-tide-800' : 'hover:bg-sand-100'}`}
            >
              {i === at && <kbd className="mr-1 font-sans text-[10.5px] font-[650]">Tab</kbd>}
              {o.new ? `new project “${o.name}”` : o.name}
            </li>
          ))}
        </ul>
      </div>
    </div>
  )
}

function PartChip({ part, keyed, onOff }: { part: Part; keyed: boolean; onOff?: () => void }) {
  const level = { urgent: 1, high: 3, normal: 5, low: 9 }[part.means]
  return (
    <span
      data-part={part.kind}
      title={part.text}
      className={cx(
        'inline-flex max-w-72 items-center gap-1.5 truncate rounded-[6px] px-2 py-0.5 text-[12px]',
        'font-[550]',
        part.wrong
          ? 'bg-coral-100 text-coral-600'
          : part.kind === 'title'
            ? 'border border-sand-200 text-ink-700'
            : (tones[part.kind] ?? 'bg-tide-100 text-tide-800'),
      )}
    >
      {part.kind === 'priority' && level && <Waves priority={level} />}
      {names[part.kind] && (
        <span className="font-normal opacity-80">
          {part.new && part.kind === 'project' ? 'new project' : names[part.kind]}
        </span>
      )}
      <span className="truncate">{part.means || part.text}</span>
      {onOff && (
        <button
          type="button"
          tabIndex={-1} // it has a key
          className="target -mr-1 inline-flex shrink-0 items-center gap-1 rounded-[5px] px-1 opacity-80 hover:opacity-100"
          aria-label={`Leave “${part.text}” in the title`}
          aria-keyshortcuts={keyed ? 'Shift+Backspace' : undefined}
          data-tip={keyed ? 'Leave it in the title (Shift ⌫)' : 'Leave it in the title'}
          onMouseDown={(e) => e.preventDefault()} // one goes on writing
          onClick={onOff}
        >
          {keyed && <kbd className="font-sans text-[10px] font-[650] max-[700px]:hidden">Shift ⌫</kbd>}×
        </button>
      )}
    </span>
  )
}
