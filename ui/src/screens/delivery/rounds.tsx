import { useState } from 'react'
import { clock, minutes } from '../../api/clock'
import type { Rounds } from '../../api/gen/delivery'
import { Toggle } from '../../kit/choose'
import { Field, labelLook } from '../../kit/field'
import { names, order } from './days'
import { sentences } from './sentences.rounds'

interface Props {
  id?: string
  at: Rounds
  onEdit: (at: Rounds) => void
}

/** The days and the time at which something comes in; no days while the time is none. */
export function RoundsAt({ id = 'rounds-at', at, onEdit }: Props) {
  const [text, setText] = useState(clock(at.minute))
  const [wrong, setWrong] = useState('')
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
      <div role="group" aria-label={sentences.onTheseDays}>
        <p className={labelLook}>{sentences.onTheseDays}</p>
        <div className="flex flex-wrap gap-1">
          {order.map((d) => (
            <Toggle key={d} on={!!(at.days & (1 << d))} onChange={() => onEdit({ ...at, days: at.days ^ (1 << d) })}>
              {names[d]}
            </Toggle>
          ))}
        </div>
      </div>
      <Field
        id={id}
        label={sentences.at}
        value={text}
        wrong={wrong}
        autoComplete="off"
        placeholder="9:00"
        className="w-24"
        onChange={(e) => {
          setText(e.target.value)
          setWrong('')
          const m = minutes(e.target.value)
          if (m >= 0) onEdit({ ...at, minute: m })
        }}
        onBlur={() => minutes(text) < 0 && setWrong(sentences.noTimeOfDay(text))}
      />
    </div>
  )
}
