import { useState } from 'react'
import { useKeptField } from './keeping'

/** What is chosen in a tray or a form beside what is typed in its fields: kept as that is, until it is finished. */
export function useKeptValue<T>(field: string, first: T): [T, (value: T) => void] {
  const [value, setValue] = useState(first)
  const { typed } = useKeptField(field, JSON.stringify(first), (before) => setValue(JSON.parse(before) as T))
  return [
    value,
    (next) => {
      setValue(next)
      typed(JSON.stringify(next))
    },
  ]
}
