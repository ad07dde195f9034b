import { useCallback, useLayoutEffect, useRef } from 'react'

/**
 * The same function for as long as something is shown, which does what was last given: what only calls it is not drawn
 * anew for it. Not to be called while something is drawn.
 */
export function useSteady<A extends unknown[], R>(f: (...args: A) => R) {
  const latest = useRef(f)
  useLayoutEffect(() => {
    latest.current = f
  })
  return useCallback((...args: A) => latest.current(...args), [])
}
