import { createContext, useContext, useLayoutEffect, useState } from 'react'

/** Where the fields of a tray or a form keep what is typed in them until it is finished. */
export interface Keeper {
  read: (field: string) => string | undefined
  /** first is what stood there before anything was typed. */
  type: (field: string, text: string, first: string) => void
}
const Context = createContext<Keeper | null>(null)
/** The fields within keep what is typed in them there. */
export const KeepFields = Context.Provider

/** Says of a field that what was typed in it has come to where it belongs. */
export function useFinished(...fields: string[]) {
  const keeping = useContext(Context)
  return () => fields.forEach((f) => keeping?.type(f, '', ''))
}

/**
 * A field that keeps what is typed in it, where the tray or form around it says so: it begins with what was typed
 * before and not finished, which is said with change, or, where nobody hears that, stands in begun. typed is called
 * with each text typed, and saved when what stands there has come to where it belongs.
 */
export function useKeptField(field: string, text: string, change: (text: string) => void) {
  const keeping = useContext(Context)
  const [first] = useState(text)
  const [begun] = useState(() => keeping?.read(field))
  // Before anything else happens: a letter typed at once comes after it, and is not replaced by it.
  useLayoutEffect(() => {
    if (begun !== undefined && begun !== text) change(begun)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, as it appears
  }, [])
  return {
    begun,
    typed: (now: string) => keeping?.type(field, now, first),
    saved: () => keeping?.type(field, first, first),
  }
}
