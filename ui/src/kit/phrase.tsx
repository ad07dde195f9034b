import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { get } from '../api/client'
import type { Phrase } from '../api/desk'
import type { Moment, Rhythm, Way } from '../api/gen/when'
import { TextButton } from './button'
import { cx } from './cx'
import { useKeptField } from './keeping'

/** A time somebody has chosen, by words or by a click. */
export interface Chosen {
  moment: Moment
  timed: boolean
  someday?: boolean // it is left for someday
  rhythm?: Rhythm // and again and again after that
}

interface Props {
  id: string
  label: string
  placeholder?: string
  autoFocus?: boolean
  rhythm?: boolean // it can be said that something is done again and again
  way?: Way // which way the field looks: ahead where nothing is said
  whole?: boolean // a day is enough, and is meant where no time was named
  initial?: string
  optional?: boolean
  clear?: number // changes when something else was chosen, so that the words go
  onChosen: (chosen: Chosen | null) => void
  onAccept: (chosen: Chosen) => void
  onCancel?: () => void
  onText?: (text: string) => void // what stands in the field, understood or not
}

/** The day of a moment without its time. */
export const dayOf = (m: Moment): Moment => (m.local ? { at: m.at, local: m.local.slice(0, 10), zone: m.zone } : m)

/** What a phrase means; null if nothing, or not surely. */
export async function understand(phrase: string): Promise<Moment | null> {
  const p = await get<Phrase>('/when?phrase=' + encodeURIComponent(phrase))
  return p.doubt || !p.moment.at ? null : p.moment
}

/** One field that understands a phrase and shows what it means as it is typed. */
export function PhraseField({
  id,
  label,
  placeholder,
  autoFocus,
  rhythm,
  way = '',
  whole,
  initial = '',
  optional,
  clear,
  onChosen,
  onAccept,
  onCancel,
  onText,
}: Props) {
  const [text, setText] = useState(initial)
  const [shown, setShown] = useState<{ for: string; phrase: Phrase } | null>(null)
  const latest = useRef(text)
  const callbacks = useRef({ onChosen, onAccept })
  useEffect(() => {
    callbacks.current = { onChosen, onAccept }
  })
  const field = useRef<HTMLInputElement>(null)
  const [again, setAgain] = useState(false) // what was typed before stands there again: other words replace it
  const { typed } = useKeptField(id, text, (before) => {
    setText(before)
    setAgain(true)
    onText?.(before)
  })
  useLayoutEffect(() => {
    if (again && autoFocus) field.current?.select()
  }, [again, autoFocus])
  const [from, setFrom] = useState({ clear, initial })
  if (from.clear !== clear || from.initial !== initial) {
    setFrom({ clear, initial })
    setText(initial)
    setShown(null)
  }

  const chosenOf = (p: Phrase): Chosen => ({
    moment: whole && !p.timed ? dayOf(p.moment) : p.moment,
    timed: p.timed,
    someday: p.someday,
    rhythm: p.rhythm,
  })
  const read = async (phrase: string) => {
    const p = await get<Phrase>(
      `/when?way=${way}${rhythm ? '&rhythm=1' : ''}&phrase=` + encodeURIComponent(phrase),
    ).catch(() => null)
    if (p && latest.current === phrase) {
      setShown({ for: phrase, phrase: p })
      callbacks.current.onChosen(p.doubt ? null : chosenOf(p))
    }
    return p
  }
  useEffect(() => {
    latest.current = text
    if (text.trim()) void read(text)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- read only closes over what does not change
  }, [text])

  const accept = async () => {
    if (!text.trim()) return
    const before = shown?.for === text ? shown.phrase : null
    const p = before ?? (await read(text))
    if (!p || !p.moment.at) return
    if (p.doubt && !before) return // the offer has only just appeared: it has to be seen before it is taken
    callbacks.current.onAccept(chosenOf(p))
  }
  /** The other meaning of the same words is taken for the meaning. */
  const other = () => {
    if (!shown?.phrase.instead) return
    const { moment, sentence } = shown.phrase
    const phrase = { ...shown.phrase, moment: shown.phrase.other, sentence: shown.phrase.instead, also: 0 }
    setShown({ for: shown.for, phrase: { ...phrase, other: moment, instead: sentence } })
    callbacks.current.onChosen(chosenOf(phrase))
  }
  const phrase = shown?.phrase
  const also =
    phrase && !phrase.doubt && phrase.also > 0
      ? ` — ${phrase.also === 1 ? 'one other thing' : phrase.also + ' other things'} then`
      : ''
  return (
    <div className="min-w-0 flex-1">
      <label htmlFor={id} className="mb-1 block text-[11.5px] font-[650] text-ink-500">
        {label}
      </label>
      <input
        ref={field}
        id={id}
        autoFocus={autoFocus}
        autoComplete="off"
        spellCheck={false}
        value={text}
        placeholder={placeholder}
        aria-describedby={id + '-means'}
        onChange={(e) => {
          setText(e.target.value)
          typed(e.target.value)
          if (!e.target.value.trim()) setShown(null)
          onText?.(e.target.value)
          if (!e.target.value.trim()) onChosen(null)
        }}
        onKeyDown={(e) => {
          if (e.nativeEvent.isComposing) return
          if (e.key === 'Enter' && !e.ctrlKey && !e.metaKey && (text.trim() || !optional)) {
            e.preventDefault()
            e.stopPropagation()
            void accept()
          }
          if (e.key === 'ArrowDown' && phrase?.instead) {
            e.preventDefault()
            e.stopPropagation()
            other()
          }
          if (e.key === 'Escape' && onCancel) {
            e.preventDefault()
            e.stopPropagation()
            onCancel()
          }
        }}
        className={cx(
          'w-full rounded-[9px] border-[1.5px] border-fill bg-sand-0 px-[11px] py-2 text-[14px]',
          'text-ink-900 outline-none placeholder:text-ink-500 focus:ring-2 focus:ring-tide-200',
        )}
      />
      <p
        id={id + '-means'}
        aria-live="polite"
        data-testid={id + '-means'}
        className={`mt-1.5 min-h-[18px] text-[12.5px] font-semibold ${phrase?.doubt ? 'text-amber-600' : 'text-accent'}`}
      >
        {phrase ? phrase.sentence + also + (phrase.doubt && phrase.moment.at ? ' Enter takes it.' : '') : ''}
      </p>
      {phrase?.instead && (
        <TextButton small className="mb-1.5 block" aria-keyshortcuts="ArrowDown" onClick={other}>
          or {phrase.instead} ↓
        </TextButton>
      )}
    </div>
  )
}
