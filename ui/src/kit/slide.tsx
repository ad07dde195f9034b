import { Slider } from 'radix-ui'
import { useState } from 'react'

/** How much of something, in steps; told when it is let go. */
export function Slide({
  label,
  value,
  max,
  step,
  disabled,
  onChange,
}: {
  label: string
  value: number
  max: number
  step: number
  disabled?: boolean
  onChange: (value: number) => void
}) {
  const [drawn, setDrawn] = useState<number>()
  return (
    <Slider.Root
      value={[drawn ?? value]}
      max={max}
      step={step}
      disabled={disabled}
      className="relative flex h-6 min-w-24 flex-1 touch-none items-center"
      onValueChange={([v]) => setDrawn(v)}
      onValueCommit={([v]) => {
        setDrawn(undefined)
        onChange(v)
      }}
    >
      <Slider.Track className="relative h-1 flex-1 rounded-[5px] bg-sand-200 forced-colors:border">
        <Slider.Range className="absolute h-full rounded-[5px] bg-fill" />
      </Slider.Track>
      <Slider.Thumb aria-label={label} className="block size-4 rounded-[6px] border-2 border-fill bg-sand-0" />
    </Slider.Root>
  )
}
