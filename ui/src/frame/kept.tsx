import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { Kept } from '../api/kept'
import { now } from '../api/times'
import { KeepFields } from '../kit/keeping'
import { Loading } from '../kit/loading'
import { here } from './address'
import { sentences } from './sentences'

const Context = createContext<Kept | null>(null)
/** What is typed and decided by this person, until the program has it. */
export const useKept = () => useContext(Context)!

/** Opens what this browser keeps of the person, before anything of theirs is shown. */
export function KeptProvider({ name, all, children }: { name: string; all: string; children: ReactNode }) {
  const [kept, setKept] = useState<Kept>()
  useEffect(() => {
    let gone = false
    void Kept.open(name, all).then((k) => {
      if (!gone) setKept(k)
    })
    return () => {
      gone = true
    }
  }, [name, all])
  return kept ? <Context value={kept}>{children}</Context> : <Loading what={sentences.loadingEbbe} />
}

/**
 * The state of what is typed in a field or a form: kept with each key, there again when it is opened again, also
 * after a crash, until it is finished. What says in words what it is. Values are held against what stands there at
 * first by what they say: what is as it was at first is not kept.
 */
export function useTyped<T>(
  name: string,
  first: T,
  what: string,
): [T, (value: T | ((before: T) => T)) => void, () => void] {
  const kept = useKept()
  const [value, setValue] = useState<T>(() => kept.read<T>(name) ?? first)
  const latest = useRef(value)
  const set = (next: T | ((before: T) => T)) => {
    const v = typeof next === 'function' ? (next as (before: T) => T)(latest.current) : next
    latest.current = v
    setValue(v)
    if (JSON.stringify(v) === JSON.stringify(first)) kept.forget(name)
    else kept.type({ name, value: v, what, path: here(), at: now() })
  }
  return [value, set, () => kept.forget(name)]
}

/**
 * What is typed in the fields within is kept under that name, with each key, and is there again when they are, until
 * it is finished. What says in words what it is.
 */
export function Keeps({ name, what, children }: { name: string; what: string; children: ReactNode }) {
  const kept = useKept()
  const keeping = useMemo(
    () => ({
      read: (field: string) => kept.read<Record<string, string>>(name)?.[field],
      type: (field: string, text: string, first: string) => {
        const value = { ...kept.read<Record<string, string>>(name) }
        if (text === first) delete value[field]
        else value[field] = text
        if (Object.keys(value).length) kept.type({ name, value, what, path: here(), at: now() })
        else kept.forget(name)
      },
    }),
    [kept, name, what],
  )
  return <KeepFields value={keeping}>{children}</KeepFields>
}
