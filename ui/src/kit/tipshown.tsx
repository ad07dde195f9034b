import { Tooltip } from 'radix-ui'
import { useEffect, useId } from 'react'

/** The words of a control, beside it. It may be gone by now: then they stand nowhere. */
export function TipShown({ at, close }: { at: HTMLElement; close: () => void }) {
  const id = useId()
  const words = at.dataset.tip ?? ''
  const said = at.getAttribute('aria-label') === words
  useEffect(() => {
    if (said) return // it is the name, and said already
    at.setAttribute('aria-describedby', id)
    return () => at.removeAttribute('aria-describedby')
  }, [at, id, said])
  const { left, top, width, height } = at.getBoundingClientRect()
  return (
    <Tooltip.Provider>
      <Tooltip.Root open onOpenChange={close}>
        <Tooltip.Trigger asChild>
          <span aria-hidden className="pointer-events-none fixed" style={{ left, top, width, height }} />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            id={id}
            sideOffset={4}
            className="ebb z-50 max-w-64 rounded-[7px] bg-ink-900 px-2 py-1 text-[12px] text-sand-0"
          >
            {words}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  )
}
