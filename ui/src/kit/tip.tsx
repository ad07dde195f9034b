import { Tooltip } from 'radix-ui'
import type { ReactElement } from 'react'

/** What a control without words is for, shown to the pointer that rests on it and to the keyboard that reaches it. */
export const Tip = ({ words, children }: { words: string; children: ReactElement }) => (
  <Tooltip.Provider delayDuration={400}>
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          className="ebb z-50 max-w-64 rounded-[7px] bg-ink-900 px-2 py-1 text-[12px] text-sand-0"
        >
          {words}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  </Tooltip.Provider>
)
