import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get } from '../../api/client'
import type { DraftView, NumberView } from '../../api/desk'
import { TextButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { measure, MOST_PARTS } from '../../kit/texting'
import { sentences } from './sentences.writer'

const SUFFIX = '@text.invalid'
const shown = (d: DraftView) => {
  const a = d.to[0]
  return a ? a.name || a.address.replace(SUFFIX, '') : ''
}

/** To which number a text goes; those whose owners are known are offered. */
export function NumberField({
  d,
  wrong,
  change,
}: {
  d: DraftView
  wrong?: string
  change: (c: Partial<DraftView>) => void
}) {
  const [typed, setTyped] = useState(() => shown(d))
  const { data } = useQuery({ queryKey: ['numbers'], queryFn: () => get<NumberView[]>('/numbers') })
  const low = typed.trim().toLowerCase()
  const take = (text: string, name = '') => {
    setTyped(name || text)
    change({ to: text.trim() ? [{ name, address: text.trim() }] : [] })
  }
  const offered = (data ?? []).filter(
    (n) => low && n.name.toLowerCase() !== low && (n.name.toLowerCase().includes(low) || n.says.includes(low)),
  )
  return (
    <div>
      <Field
        id="write-number"
        label={sentences.toWhichNumber}
        value={typed}
        wrong={wrong}
        autoFocus={!d.to.length}
        autoComplete="off"
        inputMode="tel"
        maxLength={60}
        onChange={(e) => take(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Tab' && !e.shiftKey && offered[0]) take(offered[0].number, offered[0].name)
        }}
      />
      {offered.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-x-3 text-[12.5px]">
          {offered.slice(0, 4).map((n) => (
            <TextButton key={n.number} small onClick={() => take(n.number, n.name)}>
              {n.name} {n.says}
            </TextButton>
          ))}
        </p>
      )}
    </div>
  )
}

/** How long a text is, and in how many parts it goes. */
export function Length({ text }: { text: string }) {
  const size = measure(text.trim())
  const long = size.parts > MOST_PARTS
  return (
    <span className={long ? 'text-coral-600' : ''} data-testid="text-length" title={sentences.alphabet[size.alphabet]}>
      {long
        ? sentences.tooManyParts(size.parts, MOST_PARTS)
        : sentences.lengthOf([...text.trim()].length, size.parts, size.left)}
    </span>
  )
}
