import { XIcon } from '@phosphor-icons/react'
import { useRef, useState } from 'react'
import { get } from '../api/client'
import type { Address } from '../api/gen/mail'
import { inQuotes, isAddress, readPeople, withPeople } from './addresses'
import { IconButton } from './button'
import { useOffers } from './combo'
import { cx } from './cx'

interface Props {
  id: string
  label: string
  people: Address[]
  autoFocus?: boolean
  wrong?: string
  aside?: React.ReactNode
  onChange: (people: Address[]) => void
}

/** To whom something goes: names found as they are typed, those written to often and lately first. */
export function PeopleField({ id, label, people, autoFocus, wrong, aside, onChange }: Props) {
  const [text, setText] = useState('')
  const [found, setFound] = useState<Address[]>([])
  const latest = useRef('')
  const offered = useOffers(id, text.trim() ? found.length : 0, text)
  const type = (value: string) => {
    setText(value)
    latest.current = value.trim()
    if (!value.trim()) return setFound([])
    get<Address[]>('/people?begins=' + encodeURIComponent(value.trim()))
      .then((f) => {
        if (latest.current !== value.trim()) return
        setFound(f.filter((a) => !people.some((p) => p.address === a.address)))
      })
      .catch(() => setFound([]))
  }
  const add = (more: Address[]) => {
    onChange(withPeople(people, more))
    type('')
  }
  /** What is typed becomes somebody; a whole address is taken as it is, whoever is offered. */
  const take = () => {
    if (found[offered.at] && !isAddress(text.trim())) add([found[offered.at]])
    else if (text.trim()) add(readPeople(text))
  }
  return (
    <div className="min-w-0">
      <div
        className={cx(
          'relative flex flex-wrap items-center gap-1 rounded-[9px] border border-sand-300 bg-sand-0',
          'py-[3px] pr-1.5 pl-2.5 focus-within:border-fill focus-within:outline-1 focus-within:outline-fill',
        )}
      >
        <label htmlFor={id} className="mr-1 text-[12px] font-[650] text-ink-500">
          {label}
        </label>
        {people.map((p, i) => {
          const bad = !isAddress(p.address)
          return (
            <span
              key={p.address}
              title={bad ? 'This is no mail address' : p.address}
              className={cx(
                'flex max-w-60 items-center gap-1 rounded-[7px] py-0.5 pr-0.5 pl-2 text-[13px]',
                bad ? 'bg-coral-100 text-coral-600' : 'bg-sand-100 text-ink-900',
              )}
            >
              <span className="truncate">
                {p.name || p.address}
                {bad && ' — no address'}
              </span>
              <IconButton
                label={`Remove ${p.name || p.address}`}
                onClick={() => onChange(people.filter((_, j) => j !== i))}
              >
                <XIcon size={11} aria-hidden />
              </IconButton>
            </span>
          )
        })}
        <input
          id={id}
          value={text}
          autoFocus={autoFocus}
          {...offered.field}
          aria-invalid={!!wrong}
          className="min-w-28 flex-1 bg-transparent px-1 py-1 text-[14px] text-ink-900 outline-none"
          onChange={(e) => type(e.target.value)}
          onBlur={() => {
            if (text.trim()) add(isAddress(text.trim()) || !found[offered.at] ? readPeople(text) : [found[offered.at]])
          }}
          onPaste={(e) => {
            const pasted = e.clipboardData.getData('text')
            if (/[,;\n]/.test(pasted.trim()) || isAddress(pasted.trim())) {
              e.preventDefault()
              add(readPeople(pasted))
            }
          }}
          onKeyDown={(e) => {
            if (e.ctrlKey || e.metaKey || e.nativeEvent.isComposing || offered.moves(e)) return
            if ((e.key === 'Enter' || (/^[,;]$/.test(e.key) && !inQuotes(text))) && text.trim()) {
              e.preventDefault()
              take()
            } else if (e.key === 'Enter') e.preventDefault()
            else if (e.key === 'Backspace' && !text && people.length) onChange(people.slice(0, -1))
            else if (e.key === 'Escape' && offered.field['aria-expanded']) {
              e.preventDefault()
              e.stopPropagation()
              setFound([])
            }
          }}
        />
        {aside}
        {offered.field['aria-expanded'] && (
          <ul
            id={offered.list}
            role="listbox"
            aria-label={label}
            className="absolute inset-x-0 top-full z-20 mt-1 overflow-hidden rounded-[9px] border border-sand-300 bg-sand-0 py-1 text-[13px] shadow-sm"
          >
            {found.map((a, i) => (
              <li
                key={a.address}
                id={offered.option(i)}
                role="option"
                aria-selected={i === offered.at}
                onMouseDown={(e) => {
                  e.preventDefault()
                  add([a])
                }}
                className={`flex cursor-pointer justify-between gap-3 px-3 py-1 ${i === offered.at ? 'bg-tide-100' : 'hover:bg-sand-100'}`}
              >
                <span className="truncate">{a.name || a.address}</span>
                <span className="truncate text-ink-500">{a.name && a.address}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] text-coral-600">
          {wrong}
        </p>
      )}
    </div>
  )
}
