import {
  type InputHTMLAttributes,
  type KeyboardEvent,
  type ReactNode,
  useEffect,
  useEffectEvent,
  useRef,
  useState,
} from 'react'
import { cx } from './cx'
import { Around, boxLook } from './field'
import { useKeptField } from './keeping'

/**
 * What is offered to something that is being typed: which of it is pointed at, moved by the arrow keys from the field,
 * which keeps the focus (WAI-ARIA, combobox with a list). After the text has changed the first is pointed at again.
 */
export function useOffers(id: string, count: number, text: string, sideways?: boolean) {
  const [pointed, setPointed] = useState({ text, at: 0 })
  const at = pointed.text === text ? Math.max(0, Math.min(pointed.at, count - 1)) : 0
  const point = (to: number) => setPointed({ text, at: Math.max(0, Math.min(to, count - 1)) })
  const list = id + '-list'
  const option = (i: number) => `${list}-${i}`
  return {
    at,
    /** Moves by the key, and says whether it was one that moves. */
    moves(e: KeyboardEvent) {
      if (!count || e.nativeEvent.isComposing) return false
      const along = sideways && !text
      if (e.key === 'ArrowDown' || (along && e.key === 'ArrowRight')) point(at + 1)
      else if (e.key === 'ArrowUp' || (along && e.key === 'ArrowLeft')) point(at - 1)
      else return false
      e.preventDefault()
      e.stopPropagation()
      return true
    },
    field: {
      role: 'combobox',
      autoComplete: 'off',
      spellCheck: false,
      'aria-expanded': count > 0,
      'aria-controls': list,
      'aria-activedescendant': count ? option(at) : undefined,
    },
    list,
    option,
  }
}

const layouts = {
  wrapped: { list: '-m-0.5 flex max-h-36 flex-wrap gap-1.5 p-0.5', option: 'border border-sand-300' },
  column: { list: 'max-h-24', option: '' },
  columns: { list: 'grid max-h-[44vh] gap-x-6 sm:grid-cols-2', option: 'justify-between' },
}

interface Props<T> extends Omit<
  InputHTMLAttributes<HTMLInputElement>,
  'onChange' | 'className' | 'value' | 'children'
> {
  id: string
  label: string
  hideLabel?: boolean
  listLabel: string
  text: string
  offers: T[]
  keyOf: (offer: T) => string | number
  /** What is taken already, where several can be. */
  taken?: (offer: T) => boolean
  layout?: keyof typeof layouts
  wrong?: string
  aside?: ReactNode // stands beside the field
  none?: ReactNode // stands where nothing is offered
  onText: (text: string) => void
  /** While what it began is on its way, nothing else is taken: two Enters make one. */
  onTake: (offer: T) => unknown
  /** Enter: the one that is pointed at is taken, unless it means something else. */
  onEnter?: (offer: T | undefined) => unknown
  /** What can be done with the one that is pointed at. */
  below?: (offer: T | undefined) => ReactNode
  children: (offer: T) => ReactNode
}

/** A field that offers what fits what is typed. */
export function Combo<T>({
  id,
  label,
  hideLabel,
  listLabel,
  text,
  offers,
  keyOf,
  taken,
  layout = 'column',
  wrong,
  aside,
  none,
  onText,
  onTake,
  onEnter,
  below,
  children,
  ...rest
}: Props<T>) {
  const wrapped = layout === 'wrapped'
  const offered = useOffers(id, offers.length, text, wrapped)
  const looks = layouts[layout]
  const { typed } = useKeptField(id, text, onText)
  // What was typed has become something once the words are gone.
  const had = useRef(text)
  const gone = useEffectEvent(() => typed(''))
  useEffect(() => {
    if (had.current && !text) gone()
    had.current = text
  }, [text])
  const busy = useRef(false)
  const once = async (does: () => unknown) => {
    if (busy.current) return
    busy.current = true
    try {
      await does()
    } finally {
      busy.current = false
    }
  }
  const take = (offer: T | undefined) => {
    if (offer !== undefined) void once(() => onTake(offer))
  }
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <Around id={id} label={label} hideLabel={hideLabel} wrong={wrong} className="min-w-0 flex-1">
          <input
            {...rest}
            {...offered.field}
            id={id}
            aria-label={hideLabel ? label : undefined}
            value={text}
            aria-invalid={wrong ? true : undefined}
            className={boxLook()}
            onChange={(e) => {
              typed(e.target.value)
              onText(e.target.value)
            }}
            onKeyDown={(e) => {
              if (e.nativeEvent.isComposing || offered.moves(e)) return
              const offer = offers[offered.at]
              if (e.key === ' ' && taken && !text && offer !== undefined) take(offer)
              else if (e.key === 'Enter' && !e.ctrlKey && !e.metaKey) {
                if (onEnter) void once(() => onEnter(offer))
                else take(offer)
              } else return
              e.preventDefault()
              e.stopPropagation()
            }}
          />
        </Around>
        {aside}
      </div>
      <ul
        id={offered.list}
        role="listbox"
        aria-label={listLabel}
        aria-multiselectable={taken ? true : undefined}
        className={`mt-2 overflow-y-auto ${looks.list}`}
      >
        {offers.map((o, i) => {
          const pointed = i === offered.at
          const on = taken?.(o)
          return (
            // eslint-disable-next-line jsx-a11y/click-events-have-key-events -- its field has the keys
            <li
              key={keyOf(o)}
              id={offered.option(i)}
              role="option"
              aria-selected={taken ? on : pointed}
              ref={(el) => {
                if (pointed) el?.scrollIntoView({ block: 'nearest' })
              }}
              onMouseDown={(e) => e.preventDefault()} // the field keeps the focus
              onClick={() => take(o)}
              className={cx(
                'flex min-h-6 cursor-pointer items-center gap-1.5 rounded-[7px] px-2 py-1 text-[12.5px]',
                looks.option,
                on
                  ? 'border-fill bg-tide-100 font-semibold text-tide-800'
                  : pointed && !wrapped
                    ? 'bg-tide-100 text-tide-800'
                    : 'hover:bg-sand-100',
                pointed && wrapped && 'ring-2 ring-tide-200',
                pointed && 'forced-colors:outline',
              )}
            >
              {children(o)}
            </li>
          )
        })}
      </ul>
      {offers.length === 0 && none}
      {below?.(offers[offered.at])}
    </>
  )
}
