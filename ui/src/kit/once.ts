import { useRef } from 'react'

/** Does that once at a time: what is pressed again while it is being done is not asked for again. */
export function useOnce(f: () => Promise<unknown>) {
  const busy = useRef(false)
  return () => {
    if (busy.current) return
    busy.current = true
    void f().finally(() => {
      busy.current = false
    })
  }
}
