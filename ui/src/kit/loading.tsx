import { useEffect, useState } from 'react'

/** Whether it has taken so long that something should be shown meanwhile. */
function useLate(ms: number) {
  const [late, setLate] = useState(false)
  useEffect(() => {
    const t = setTimeout(() => setLate(true), ms)
    return () => clearTimeout(t)
  }, [ms])
  return late
}

/** What stands where something is on its way: nothing at first, and after 200 ms lines where it will be. */
export function Loading({ lines = 6, what = 'Loading' }: { lines?: number; what?: string }) {
  const late = useLate(200)
  return (
    <div role="status" aria-label={what} className="space-y-3 px-[22px] py-5">
      {late &&
        Array.from({ length: lines }, (_, i) => (
          <div key={i} data-skeleton className="space-y-1.5" aria-hidden>
            <div className="h-3 rounded-[5px] bg-sand-200" style={{ width: `${34 + ((i * 17) % 31)}%` }} />
            <div className="h-3 rounded-[5px] bg-sand-100" style={{ width: `${58 + ((i * 23) % 37)}%` }} />
          </div>
        ))}
    </div>
  )
}
