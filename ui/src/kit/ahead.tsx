import { type ComponentType, lazy, useEffect, useState } from 'react'
import { afterPaint } from '../api/paint'
import { fetched } from './fetched'

const parts: (() => Promise<unknown>)[] = []

/**
 * A part of a screen that does not come with it: it is fetched once the screen stands and there is nothing else to do,
 * or when it is asked for before. The nearest Suspense says what stands there meanwhile.
 */
export function ahead<P extends object>(part: () => Promise<ComponentType<P>>): ComponentType<P> {
  let here: ComponentType<P> | undefined
  let asked: Promise<ComponentType<P>> | undefined
  const get = () =>
    (asked ??= fetched(part).then(
      (c) => (here = c),
      (e: unknown) => {
        asked = undefined // it is asked for again when it is needed
        throw e
      },
    ))
  const OnItsWay = lazy(async () => ({ default: await get() }))
  parts.push(get)
  return function Ahead(props: P) {
    const [Part] = useState<ComponentType<P>>(() => here ?? OnItsWay)
    return <Part {...props} />
  }
}

/** Fetches all such parts once what is shown is painted and the browser has nothing else to do. */
export function useAhead() {
  useEffect(
    () =>
      afterPaint(() =>
        requestIdleCallback(
          () => {
            for (const get of parts) void get().catch(() => {}) // it is told where it is asked for
          },
          { timeout: 2000 },
        ),
      ),
    [],
  )
}
